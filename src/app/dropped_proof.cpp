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

void takeSettings(Desk& desk, QWidget* parent, const std::string& name, const Recipe& recipe) {
  // Pictures that are not here are looked for, one by one; what is not found is left out and said.
  Recipe wanted = recipe;
  for (RecipeReference& reference : wanted.references) {
    const bool used = std::any_of(wanted.guides.begin(), wanted.guides.end(),
                                  [&](const RecipeGuide& entry) { return entry.guide.reference == reference.id; });
    const Reference* there = desk.document.state().reference(reference.id);
    if (!used || (there != nullptr && there->name == reference.name)) continue;
    std::string found;
    // The same picture may be here under another id: a proof from another study.
    for (const Reference& other : desk.document.state().references)
      if (other.name == reference.name) found = other.id;
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
  const auto differing = differences(recipeOf(desk.document.state()), wanted);
  std::vector<std::string> lost;
  if (!desk.document.change("Take settings of " + QString::fromStdString(name),
                            [&](StudyState& s) { lost = adoptRecipe(s, wanted); }))
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
