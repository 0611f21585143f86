#include "app/dropped_proof.h"

#include <QFileDialog>
#include <QMessageBox>
#include <QPushButton>

#include "app/desk.h"
#include "app/document/study_edits.h"
#include "core/brief/differences.h"
#include "core/image/png.h"

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

}  // namespace

bool offerRecipe(Desk& desk, QWidget* parent, const std::filesystem::path& file) {
  std::optional<Recipe> recipe;
  Bytes bytes;
  try {
    if (QString::fromStdString(file.extension().string()).toLower() != ".png") return false;
    bytes = readWholeFile(file);
    recipe = recipeFromTexts(readPngTexts(bytes));
  } catch (const std::exception&) {
    return false;  // no recipe inside: a picture like others
  }
  const std::string name = file.filename().string();
  QMessageBox box(
      QMessageBox::NoIcon, "Humble Scaffold",
      QString("%1 is a proof and carries its settings. What should it be here?").arg(QString::fromStdString(name)),
      QMessageBox::NoButton, parent);
  auto* settings = box.addButton("Take its settings", QMessageBox::AcceptRole);
  auto* reference = box.addButton("Reference", QMessageBox::AcceptRole);
  auto* start = box.addButton("Start picture", QMessageBox::AcceptRole);
  settings->setObjectName("take settings");
  reference->setObjectName("as reference");
  start->setObjectName("as start picture");
  box.addButton("Cancel", QMessageBox::RejectRole);
  box.setDefaultButton(settings);
  box.exec();
  if (box.clickedButton() == settings) takeSettings(desk, parent, name, *recipe);
  if (box.clickedButton() == reference) bringIn(desk, {file});
  if (box.clickedButton() == start) guarded(desk, [&] { startFromFile(desk, file); });
  return true;
}

}  // namespace hscaffold::app
