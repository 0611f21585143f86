#include "app/dropped_proof.h"

#include <QFileDialog>
#include <QMessageBox>
#include <QPushButton>

#include "app/desk.h"
#include "app/document/study_edits.h"
#include "core/brief/differences.h"
#include "core/finish/touch_up.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/study/study_file.h"

namespace hscaffold::app {
namespace {

template <typename Job>
void guarded(Desk& desk, Job&& job) {
  try {
    job();
  } catch (const std::exception& error) {
    emit desk.problem(error.what());
  }
}

/// The picture that a recipe means, by its content; where that is not known, by its id and name, or its name alone.
/// Empty if it is not here.
std::string hereFor(const StudyState& state, const RecipeReference& wanted) {
  if (!wanted.content.empty()) {
    for (const Reference& reference : state.references)
      if (reference.content == wanted.content) return reference.id;
  }
  std::string found;
  for (const Reference& reference : state.references) {
    // A known content that differs is another picture, whatever it is called.
    const bool another = !wanted.content.empty() && !reference.content.empty();
    if (another || reference.name != wanted.name) continue;
    if (reference.id == wanted.id) return reference.id;
    found = reference.id;
  }
  return found;
}

void takeSettings(Desk& desk, QWidget* parent, const std::string& name, const Recipe& recipe) {
  // Pictures that are not here are looked for, one by one; what is not found is left out and said.
  Recipe wanted = recipe;
  for (RecipeReference& reference : wanted.references) {
    const bool used = reference.id == wanted.brief.start.reference ||
                      std::any_of(wanted.guides.begin(), wanted.guides.end(),
                                  [&](const RecipeGuide& entry) { return entry.guide.reference == reference.id; });
    std::string found = hereFor(desk.document.state(), reference);
    if (!used || found == reference.id) continue;
    if (found.empty()) {
      QMessageBox box(
          QMessageBox::NoIcon, "Humble Scaffold",
          QString("The settings use %1, which is not in this study.").arg(QString::fromStdString(reference.name)),
          QMessageBox::NoButton, parent);
      auto* locate = box.addButton("Locate it...", QMessageBox::AcceptRole);
      locate->setObjectName("locate");
      box.addButton("Go on without", QMessageBox::RejectRole)->setObjectName("without");
      box.setDefaultButton(locate);
      box.exec();
      if (box.clickedButton() == locate) {
        const QString path = QFileDialog::getOpenFileName(parent, "Locate " + QString::fromStdString(reference.name));
        if (!path.isEmpty()) guarded(desk, [&] { found = addReferenceFrom(desk, path.toStdString()); });
      }
    }
    renameReference(wanted, reference.id, found);
  }
  std::vector<std::string> lost;
  // A proof of this very study knows its guides and proofs by the same ids and numbers.
  const auto& own = desk.proofs.all();
  const bool ours = std::any_of(own.begin(), own.end(), [&](const ProofInfo& proof) { return proof.recipe == recipe; });
  if (!ours) wanted = asForeign(std::move(wanted), desk.document.state(), lost);
  const auto differing = differences(recipeOf(desk.document.state()), wanted);
  if (!desk.document.change("Take settings of " + QString::fromStdString(name), [&](StudyState& s) {
        const auto more = adoptRecipe(s, wanted);
        lost.insert(lost.end(), more.begin(), more.end());
      }))
    return;
  QStringList words;
  for (const Difference& d : differing)
    if (words.size() < 4) words << QString::fromStdString(d.what);
  if (differing.size() > 4) words << QString("%1 more").arg(differing.size() - 4);
  QString sentence =
      differing.empty() ? QString("The settings were the same already.") : "Changed: " + words.join("; ") + ".";
  for (const std::string& one : lost) sentence += " " + QString::fromStdString(one);
  if (lost.empty())
    emit desk.notice(sentence);
  else
    emit desk.problem(sentence);
}

/// A final with its stack, as far as its parts are in this study; else the picture itself as a final without one.
void takeFinal(Desk& desk, const std::string& name, const Recipe& recipe, Bytes bytes, Final final) {
  const auto isHere = [&](const std::string& content) {
    try {
      return desk.document.picture(content) != nullptr;
    } catch (const Problem&) {
      return false;
    }
  };
  final.tiles.clear();
  std::size_t lost = 0;
  if (!isHere(final.picture)) {
    const PictureFile file = pictureFile(std::move(bytes));
    desk.document.keepPicture(file);
    lost = final.touchUps.size();
    final.touchUps.clear();
    final.picture = file.content;
    final.size = recipe.frame;
  }
  for (TouchUp& touchUp : final.touchUps) {
    const std::string used = touchUp.usedTry() != nullptr ? touchUp.usedTry()->picture : std::string();
    std::erase_if(touchUp.tries, [&](const TouchTry& one) { return !isHere(one.picture); });
    touchUp.used = -1;
    for (std::size_t i = 0; i < touchUp.tries.size(); ++i)
      if (touchUp.tries[i].picture == used) touchUp.used = static_cast<int>(i);
    if (!used.empty() && touchUp.used < 0) ++lost;
  }
  std::string id;
  desk.document.change("Bring a final back", [&](StudyState& s) {
    final.id = id = newId(s, "f");
    for (TouchUp& touchUp : final.touchUps) touchUp.id = newId(s, "t");
    s.finals.push_back(final);
  });
  desk.document.look([&](Looking& looking) {
    looking.final = id;
    looking.touchUp.clear();
  });
  const auto touchUps = static_cast<int>(final.touchUps.size());
  QString sentence = QString("%1 is a final here, with %2 touch-up%3.")
                         .arg(QString::fromStdString(name))
                         .arg(touchUps)
                         .arg(touchUps == 1 ? "" : "s");
  if (lost > 0)
    sentence +=
        QString(" The parts of %1 are not in this study: they are only in the picture itself, or left out.").arg(lost);
  emit desk.notice(sentence);
}

}  // namespace

bool offerRecipe(Desk& desk, QWidget* parent, const std::filesystem::path& file) {
  std::optional<Recipe> recipe;
  std::optional<Final> final;
  Bytes bytes;
  try {
    if (QString::fromStdString(file.extension().string()).toLower() != ".png") return false;
    bytes = readWholeFile(file);
    const PngTexts texts = readPngTexts(bytes);
    recipe = recipeFromTexts(texts);
    if (const auto about = texts.find(finalKeyword); about != texts.end()) {
      Mended mended;
      final = finalFromJson(parseJson(about->second, "The final in the picture"), "The final in the picture", &mended);
    }
  } catch (const std::exception&) {
    return false;  // no recipe inside: a picture like others
  }
  const std::string name = file.filename().string();
  QMessageBox box(QMessageBox::NoIcon, "Humble Scaffold",
                  QString(final ? "%1 is a final and carries what it is made of. What should it be here?"
                                : "%1 is a proof and carries its settings. What should it be here?")
                      .arg(QString::fromStdString(name)),
                  QMessageBox::NoButton, parent);
  auto* settings = box.addButton("Take its settings", QMessageBox::AcceptRole);
  auto* reference = box.addButton("Reference", QMessageBox::AcceptRole);
  auto* start = box.addButton("Start picture", QMessageBox::AcceptRole);
  auto* whole = final ? box.addButton("Final with its touch-ups", QMessageBox::AcceptRole) : nullptr;
  if (whole != nullptr) whole->setObjectName("as final");
  settings->setObjectName("take settings");
  reference->setObjectName("as reference");
  start->setObjectName("as start picture");
  box.addButton("Cancel", QMessageBox::RejectRole);
  box.setDefaultButton(settings);
  box.exec();
  if (whole != nullptr && box.clickedButton() == whole)
    guarded(desk, [&] { takeFinal(desk, name, *recipe, std::move(bytes), std::move(*final)); });
  if (box.clickedButton() == settings) takeSettings(desk, parent, name, *recipe);
  if (box.clickedButton() == reference) bringIn(desk, {file});
  if (box.clickedButton() == start) guarded(desk, [&] { startFromFile(desk, file); });
  return true;
}

}  // namespace hscaffold::app
