#include "app/main_window.h"
#include "app/proofs/own_programs.h"
#include "app/proofs/own_services.h"

#include <QApplication>
#include <QClipboard>
#include <QCloseEvent>
#include <QDialog>
#include <QFileDialog>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPointer>
#include <QProgressDialog>
#include <QScreen>
#include <QSettings>
#include <QStackedWidget>
#include <QTextBrowser>
#include <QVBoxLayout>

#include "app/bench/bench_view.h"
#include "app/bench/clip_dialog.h"
#include "app/bench/map_file_dialog.h"
#include "app/desk.h"
#include "app/document/study_edits.h"
#include "app/dropped_proof.h"
#include "app/finish/finish_view.h"
#include "app/help.h"
#include "app/main_view.h"
#include "app/sheet/sheet_view.h"
#include "app/stage/stage_view.h"
#include "app/theme/theme.h"
#include "app/top_strip.h"
#include "app/widgets/calm_wheel.h"
#include "app/widgets/list_keys.h"
#include "app/widgets/room.h"
#include "app/workbench/pose/figure_edits.h"
#include "core/kinds.h"
#include "core/study/study_file.h"
#include "files/study_lock.h"

namespace hscaffold::app {
namespace {

constexpr int mostRecent = 8;
constexpr const char* studyFilter = "Studies (*.scaffold)";

/// The view that is gone to: the window's stack holds nothing else.
MainView& shownIn(const QStackedWidget& stack) { return *static_cast<MainView*>(stack.currentWidget()); }

}  // namespace

MainWindow::MainWindow(Desk& desk) : desk_(desk) {
  new CalmWheel(this);
  new ListKeys(this);
  setAcceptDrops(true);
  // On a small or strongly scaled screen the window takes what there is.
  resize(QSize(1280, 800).boundedTo(screen()->availableSize()));
  setMinimumSize(1240, 680);
  auto* central = new QWidget;
  auto* column = new QVBoxLayout(central);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  strip_ = new TopStrip(desk_);
  stack_ = new QStackedWidget;
  auto* stripRoom = new Room("Top strip", strip_);
  column->addWidget(stripRoom);
  column->addWidget(stack_, 1);
  setCentralWidget(central);
  sentence_ = new QLabel(central);
  sentence_->setWordWrap(true);
  sentence_->setContentsMargins(14, 8, 14, 8);
  sentence_->hide();
  addActions();
  addView(new BenchView(desk_));
  addView(new SheetView(desk_));
  auto* finish = new FinishView(desk_);
  addView(finish);
  auto* stage = new StageView(desk_);
  addView(stage);
  strip_->setViews(views_);
  for (MainView* view : views_) view->addOuterRoom(stripRoom);
  showView(0);
  connect(strip_, &TopStrip::viewAsked, this, &MainWindow::showView);
  addOwnPrograms(desk_);
  addOwnServices(desk_);
  connect(&desk_, &Desk::stripAsked, strip_, &TopStrip::openStrip);
  connect(&desk_, &Desk::findAsked, strip_, &TopStrip::openFind);
  connect(&desk_, &Desk::finalAsked, this, [this, finish](qint64 proof) {
    showView(2);
    finish->askFinal(proof);
  });
  connect(&desk_, &Desk::placeAsked, this, [this] { showView(0); });
  connect(stage, &StageView::benchAsked, this, [this] { showView(0); });
  connect(stage, &StageView::clipAsked, this, [this] {
    const QString file = QFileDialog::getOpenFileName(this, "A motion clip", {}, "Motion clips (*.bvh)");
    if (!file.isEmpty()) bringInFiles({file.toStdString()});
  });
  connect(strip_, &TopStrip::sheetPulled, this, [this] { showView(1); });
  connect(&strip_->menu(), &QMenu::aboutToShow, this, &MainWindow::fillMenu);
  sentenceTime_.setSingleShot(true);
  connect(&sentenceTime_, &QTimer::timeout, sentence_, &QWidget::hide);
  connect(&themeSignals(), &ThemeSignals::changed, this, &MainWindow::styleSentence);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.title) refresh();
  });
  connect(&desk_.document, &StudyDocument::pathChanged, this, [this] {
    if (!desk_.document.path().empty()) remember(QString::fromStdString(desk_.document.path().string()));
    refresh();
  });
  connect(&desk_, &Desk::problem, this, [this](const QString& sentence) { say(sentence, true); });
  connect(&desk_, &Desk::notice, this, [this](const QString& sentence) { say(sentence, false); });
  refresh();
}

void MainWindow::addView(MainView* view) {
  connect(view, &MainView::openAsked, this, &MainWindow::askPicture);
  connect(view, &MainView::exportAsked, this, &MainWindow::askExport);
  connect(view, &MainView::exportMapAsked, this, &MainWindow::askExportMap);
  connect(view, &MainView::said, this, [this](const QString& sentence) { say(sentence, false); });
  stack_->addWidget(view);
  views_.push_back(view);
  auto* key = new QAction(this);
  key->setShortcut(QKeySequence(QString::number(views_.size())));
  connect(key, &QAction::triggered, this, [this, number = static_cast<int>(views_.size()) - 1] { showView(number); });
  addAction(key);
}

void MainWindow::showView(int number) {
  if (number < 0 || number >= std::ssize(views_)) return;
  const bool another = number != stack_->currentIndex();
  stack_->setCurrentIndex(number);
  strip_->showView(number);
  if (!sentence_->isHidden()) placeSentence();
  // The button that was pressed does not keep the keys for itself.
  MainView* view = views_[static_cast<std::size_t>(number)];
  if (const QWidget* now = focusWidget(); another || (now != nullptr && strip_->isAncestorOf(now))) view->takeFocus();
}

QAction* MainWindow::action(const QString& text, const QString& keys, const std::function<void()>& run) {
  auto* item = new QAction(text, this);
  if (!keys.isEmpty()) item->setShortcut(QKeySequence(keys));
  connect(item, &QAction::triggered, this, run);
  addAction(item);
  actions_ << item;
  return item;
}

void MainWindow::addActions() {
  action("New study", "Ctrl+N", [this] {
    if (mayClose()) guarded([this] { desk_.document.createUntitled(lost_); });
  });
  action("Open study...", "Ctrl+O", [this] { askOpenStudy(); });
  action("Save as...", "Ctrl+Shift+S", [this] { askSaveAs(); });
  export_ = action("Export shown proof...", "Ctrl+E", [this] { askExport(); });
  action("Export map...", "Ctrl+Shift+E", [this] { askExportMap(); });
  action("Bring in a picture...", "Ctrl+I", [this] { askPicture(); });
  action("Copy figure or thing", "Ctrl+C", [this] { copyFigure(); });
  action("Paste picture, figure or thing", "Ctrl+V", [this] { paste(); });
  action("Undo", "Ctrl+Z", [this] { desk_.document.undo(); });
  action("Redo", "Ctrl+Shift+Z", [this] { desk_.document.redo(); });
  action("Pull one", "Ctrl+Return", [this] { desk_.queue.pull(); });
  action("Pull a sheet...", "Ctrl+Shift+Return", [this] { strip_->openStrip({}); });
  action("Find a balance...", "Ctrl+Alt+Return", [this] { strip_->openFind({}); });
  action("Rough or final proofs", "Ctrl+J", [this] { strip_->changeSet(); });
  action("Make a proof large...", "Ctrl+Shift+L", [this] { emit desk_.finalAsked(0); });
  action("Stop pulling", "Ctrl+.", [this] {
    desk_.queue.stopAll();
    desk_.finals.stop();
  });
  action("Dusk or day", "F8", [] {
    applyTheme(themeName() == ThemeName::dusk ? ThemeName::day : ThemeName::dusk);
    QSettings().setValue("theme", themeName() == ThemeName::day ? "day" : "dusk");
  });
  action("Help", "F1", [this] { showHelp(); });
  action("Quit", "Ctrl+Q", [this] { close(); });
  const auto key = [this](const char* keys, const std::function<void()>& run) {
    auto* hidden = new QAction(this);
    hidden->setShortcut(QKeySequence(keys));
    connect(hidden, &QAction::triggered, this, run);
    addAction(hidden);
  };
  key("Ctrl+R", [this] { strip_->openFrame(); });
  key("Ctrl+K", [this] { strip_->openChecks(); });
}

/// What the window does, and between that what the shown view offers.
void MainWindow::fillMenu() {
  QMenu& menu = strip_->menu();
  menu.clear();
  export_->setText(shownIn(*stack_).exportName());
  for (QAction* item : actions_) {
    const QString text = item->text();
    if (text == "Undo" || text == "Bring in a picture..." || text == "Help") menu.addSeparator();
    if (text == "Dusk or day") {
      menu.addSeparator();
      for (QAction* own : shownIn(*stack_).viewActions()) menu.addAction(own);
      menu.addSeparator();
    }
    menu.addAction(item);
    if (text != "Open study...") continue;
    auto* recent = menu.addMenu("Open recent");
    for (const QString& path : recentFiles())
      recent->addAction(QFileInfo(path).fileName(), this, [this, path] { openStudyLater(path); })->setToolTip(path);
    recent->setToolTipsVisible(true);
    recent->setEnabled(!recent->isEmpty());
  }
}

void MainWindow::refresh() {
  setWindowTitle(QString("%1%2 - Humble Scaffold")
                     .arg(QString::fromStdString(desk_.document.state().title),
                          desk_.document.forLooking() ? " (for looking)" : ""));
}

void MainWindow::say(const QString& sentence, bool bad) {
  sentenceIsBad_ = bad;
  sentence_->setText((bad ? QString::fromUtf8("\xE2\x9C\x95  ") : QString()) + sentence);
  styleSentence();
  placeSentence();
  sentence_->show();
  sentence_->raise();
  sentenceTime_.start(bad ? 12000 : 6000);
}

void MainWindow::styleSentence() {
  setOwnSheet(*sentence_, QString("background: %1; color: %2; border: 1px solid %3; border-radius: 3px;")
                              .arg(theme().raised.name(), theme().text.name(),
                                   (sentenceIsBad_ ? theme().bad : theme().line).name()));
}

QString MainWindow::shownSentence() const { return sentence_->isHidden() ? QString() : sentence_->text(); }

void MainWindow::placeSentence() {
  const MainView* view = &shownIn(*stack_);
  QRect place = view->messagePlace();
  place.moveTopLeft(view->mapTo(centralWidget(), place.topLeft()));
  const int width = std::min(640, place.width() - 24);
  sentence_->setFixedWidth(width);
  sentence_->adjustSize();
  sentence_->move(place.left() + (place.width() - width) / 2, place.bottom() - sentence_->height() - 12);
}

void MainWindow::guarded(const std::function<void()>& job) {
  try {
    job();
  } catch (const std::exception& error) {
    say(QString::fromStdString(error.what()), true);
  }
}

bool MainWindow::openStudy(const QString& path) {
  if (!mayClose()) return false;
  bool open = false;
  guarded([&] {
    desk_.document.open(path.toStdString(), lost_);
    open = true;
  });
  return open;
}

void MainWindow::openStudyLater(const QString& path) {
  if (desk_.document.isOpen(path.toStdString())) {
    openStudy(path);
    return;
  }
  if (!mayClose()) return;
  // A large study takes a while to be looked through; the window goes on meanwhile.
  desk_.tasks.run(
      this, "open study", Priority::hand,
      [file = path.toStdString()](const StopToken&) {
        return std::make_shared<StudyDocument::Opened>(StudyDocument::prepare(file));
      },
      [this, lost = lost_](const std::shared_ptr<StudyDocument::Opened>& opened) {
        desk_.document.take(std::move(*opened), lost);
      });
}

void MainWindow::askOpenStudy() {
  const QString path = QFileDialog::getOpenFileName(this, "Open study", {}, studyFilter);
  if (!path.isEmpty()) openStudyLater(path);
}

void MainWindow::askSaveAs(Waits waits) {
  QString path = QFileDialog::getSaveFileName(
      this, "Save study as", QString::fromStdString(desk_.document.state().title) + ".scaffold", studyFilter);
  if (path.isEmpty()) return;
  if (!path.endsWith(".scaffold")) path += ".scaffold";
  if (waits == Waits::yes) return guarded([&] { desk_.document.saveAs(path.toStdString()); });
  guarded([&] {
    const auto saving = desk_.document.beginSaving(path.toStdString());
    if (!saving) return;
    // A large study takes a while to be copied. Nothing can be done to it meanwhile; what runs goes on.
    auto* shown = new QProgressDialog(QString("Saving %1...").arg(QFileInfo(path).fileName()), {}, 0, 0, this);
    shown->setWindowModality(Qt::WindowModal);
    shown->setMinimumDuration(300);
    shown->setValue(0);
    desk_.tasks.run(
        this, "save as", Priority::hand,
        [saving](const StopToken&) {
          try {
            StudyDocument::makeCopy(*saving);
          } catch (const std::exception& error) {
            return QString(error.what());
          }
          return QString();
        },
        [this, saving, shown = QPointer(shown)](const QString& trouble) {
          if (shown) shown->deleteLater();
          desk_.document.endSaving(*saving);
          if (!trouble.isEmpty()) say(trouble, true);
        });
  });
}

void MainWindow::askPicture() {
  const auto names = QFileDialog::getOpenFileNames(
      this, "Bring in pictures", {},
      "Pictures, drawings, key points and clips (*.png *.jpg *.jpeg *.webp *.tif *.tiff *.exr *.bmp *.svg *.json "
      "*.bvh);;All files (*)");
  std::vector<std::filesystem::path> files;
  for (const QString& name : names) files.emplace_back(name.toStdString());
  bringInFiles(files);
}

void MainWindow::bringInFiles(const std::vector<std::filesystem::path>& files) {
  std::vector<std::filesystem::path> pictures;
  if (files.size() == 1 && offerRecipe(desk_, this, files.front())) return;
  for (const auto& file : files) {
    const QString end = QString::fromStdString(file.extension().string()).toLower();
    if (end == ".glb" || end == ".gltf") {
      // Things stand on the stage, wherever they were dropped.
      showView(3);
      findChild<StageView*>()->work().addModel(file);
      continue;
    }
    if (shownIn(*stack_).takeFile(file)) continue;
    if (end == ".json" || end == ".bvh")
      guarded([&] { bringInFigures(file, end == ".bvh"); });
    else
      pictures.push_back(file);
  }
  if (!pictures.empty()) bringIn(desk_, pictures);
}

void MainWindow::bringInFigures(const std::filesystem::path& file, bool clip) {
  PoseWork& pose = desk_.workbench.pose;
  const QString name = QString::fromStdString(file.filename().string());
  if (clip) {
    const Bytes bytes = readWholeFile(file);
    auto* onStage = qobject_cast<StageView*>(&shownIn(*stack_));
    auto* dialog = new ClipDialog(pose::bvhFrom(textOf(bytes), name.toStdString()), name, this,
                                  onStage != nullptr ? "Put on the stage" : "Put on picture");
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog, file, onStage] {
      if (onStage != nullptr) {
        onStage->work().takeClip(dialog->clip(), dialog->frame(), dialog->mapping(), dialog->turn(),
                                 file.stem().string());
        return;
      }
      if (auto figure = dialog->figure()) {
        figure->name = file.stem().string();
        desk_.workbench.pose.add({inTheMiddle(*figure, desk_.document.state().frame)}, "Bring in a clip's frame");
      }
    });
    dialog->open();
    return;
  }
  auto read = figuresForStudy(desk_.document, file);
  std::vector<pose::Figure> figures;
  for (const auto& figure : read.figures.figures) figures.push_back(*figure);
  if (figures.empty()) throw badInput(file.filename().string() + " holds no figure.");
  pose.add(std::move(figures), "Bring in " + name);
  if (!read.note.empty()) say(QString::fromStdString(read.note), false);
}

void MainWindow::askExportMap() {
  if (shownIn(*stack_).exportMaps()) return;
  const Guide* guide = desk_.document.state().selectedGuide();
  if (guide == nullptr || desk_.maps.mapOf(guide->id) == nullptr) return say("There is no map to export yet.", false);
  // The guide may go while a dialog is open: only its name and id are kept.
  const std::string id = guide->id;
  const QString name = QString::fromStdString(guide->name);
  const Kind& kind = kindOf(guide->kind);
  MapFileForm form;
  QString ending = ".png";
  QStringList formats{"PNG picture (*.png)"};
  if (isOfValues(kind.nature)) {
    MapFileDialog dialog(desk_.document.state().frame, this);
    if (dialog.exec() != QDialog::Accepted) return;
    form = dialog.form();
    ending = dialog.ending();
    formats = QStringList(QString("Map (*%1)").arg(ending));
  }
  for (const MapExport& format : kind.exports)
    formats << QString("%1 (*%2)").arg(QString::fromStdString(format.name), QString::fromStdString(format.ending));
  QString path = QFileDialog::getSaveFileName(this, "Export map", name + ending, formats.join(";;"));
  if (path.isEmpty()) return;
  if (isOfValues(kind.nature) && !path.endsWith(ending, Qt::CaseInsensitive)) path += ending;
  guarded([&] { desk_.write(path, desk_.maps.writer(id, path.toStdString(), form)); });
}

void MainWindow::askExport() {
  if (shownIn(*stack_).exportShown()) return;
  const ProofInfo* proof = desk_.proofs.current();
  if (proof == nullptr) return say("There is no proof to export yet.", false);
  const std::int64_t number = proof->number;
  QString path = QFileDialog::getSaveFileName(this, "Export proof", QString("proof-%1.png").arg(number),
                                              "PNG with its recipe (*.png)");
  if (path.isEmpty()) return;
  if (!path.endsWith(".png")) path += ".png";
  desk_.write(path, [read = desk_.proofs.reader(), number, file = path.toStdString()] {
    writeFileAtomically(file, read(number));
  });
}

void MainWindow::copyFigure() {
  if (shownIn(*stack_).copyChosen()) return;
  PoseWork& pose = desk_.workbench.pose;
  if (const auto figure = pose.selected())
    app::copyFigure(pose, *figure);
  else
    say("Choose a figure of a pose guide first.", false);
}

void MainWindow::paste() {
  const QMimeData* clip = QApplication::clipboard()->mimeData();
  std::vector<std::filesystem::path> files;
  for (const QUrl& url : clip->urls())
    if (url.isLocalFile()) files.emplace_back(url.toLocalFile().toStdString());
  if (files.empty() && shownIn(*stack_).pasteHere()) return;
  if (files.empty() && pasteFigures(desk_.workbench.pose)) return;
  if (!files.empty())
    bringInFiles(files);
  else if (clip->hasImage())
    bringIn(desk_, qvariant_cast<QImage>(clip->imageData()), "pasted.png");
  else
    say("There is no picture or figure on the clipboard.", false);
}

void MainWindow::showHelp() {
  auto* window = new QDialog(this);
  window->setAttribute(Qt::WA_DeleteOnClose);
  window->setWindowTitle("Help");
  window->resize(640, 620);
  auto* text = new QTextBrowser;
  text->setMarkdown(helpText(*desk_.queue.engineInfo()));
  auto* layout = new QVBoxLayout(window);
  layout->addWidget(text);
  window->show();
}

QStringList MainWindow::recentFiles() {
  QStringList files = QSettings().value("recent").toStringList();
  files.removeIf([](const QString& path) { return !QFile::exists(path); });
  return files;
}

void MainWindow::remember(const QString& path) {
  QStringList files = recentFiles();
  files.removeAll(path);
  files.prepend(path);
  while (files.size() > mostRecent) files.removeLast();
  QSettings().setValue("recent", files);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls() || event->mimeData()->hasImage()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  std::vector<std::filesystem::path> files;
  for (const QUrl& url : event->mimeData()->urls()) {
    if (!url.isLocalFile()) continue;
    if (url.toLocalFile().endsWith(".scaffold")) {
      QTimer::singleShot(0, this, [this, file = url.toLocalFile()] { openStudyLater(file); });
      return event->acceptProposedAction();
    }
    files.emplace_back(url.toLocalFile().toStdString());
  }
  event->acceptProposedAction();
  // What is asked about them is asked once the drop is over: whoever dragged waits for that.
  if (!files.empty())
    QTimer::singleShot(0, this, [this, files] { bringInFiles(files); });
  else if (event->mimeData()->hasImage())
    bringIn(desk_, qvariant_cast<QImage>(event->mimeData()->imageData()), "dropped.png");
}

/// Nothing is lost without a word: what could not be written is tried once more, and then it is asked.
bool MainWindow::mayClose() {
  lost_ = StudyDocument::Unwritten::refuse;
  if (desk_.document.flush() && desk_.proofs.keepAll()) return true;
  QMessageBox box(
      QMessageBox::Warning, "Humble Scaffold",
      QString("Not everything could be written. %1\n\nSave the study somewhere else, or close and lose what "
              "was done since.")
          .arg(desk_.document.unwritten()),
      QMessageBox::NoButton, this);
  auto* elsewhere = box.addButton("Save elsewhere...", QMessageBox::AcceptRole);
  auto* lose = box.addButton("Close and lose it", QMessageBox::DestructiveRole);
  auto* goOn = box.addButton("Go on working", QMessageBox::RejectRole);
  elsewhere->setObjectName("elsewhere");
  lose->setObjectName("loseIt");
  goOn->setObjectName("goOn");
  box.setDefaultButton(elsewhere);
  box.exec();
  if (box.clickedButton() == lose) {
    lost_ = StudyDocument::Unwritten::lose;
    return true;
  }
  if (box.clickedButton() == elsewhere) {
    askSaveAs(Waits::yes);
    return desk_.document.flush() && desk_.proofs.keepAll();
  }
  return false;
}

/// What would be given up by closing now, in sentences; empty if nothing would.
QString MainWindow::stillToCome() const {
  const auto& all = desk_.queue.all();
  const auto waiting = std::count_if(all.begin(), all.end(), [](const Pull& pull) { return pull.sheet > 0; });
  QStringList sentences;
  if (waiting > 0)
    sentences << QString(
                     "%1 proof%2 of a sheet %3 still to come. What is finished is kept, and the rest is offered "
                     "again when the study is opened.")
                     .arg(waiting)
                     .arg(waiting == 1 ? "" : "s", waiting == 1 ? "is" : "are");
  if (std::ssize(all) > waiting) sentences << "A proof is being pulled; it would be lost.";
  if (desk_.workbench.search.finding()) sentences << "Figures are being looked for; what is found would be lost.";
  if (desk_.tasks.runsAny("write ")) sentences << "A file is being written; it would not be there.";
  if (desk_.tasks.runsAny("save as")) sentences << "The study is being saved; it would stay where it was.";
  if (desk_.tasks.runsAny("bring in ")) sentences << "Pictures are being read; they would not be in the study.";
  return sentences.join(' ');
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (const QString sentences = stillToCome(); !sentences.isEmpty()) {
    QMessageBox box(QMessageBox::NoIcon, "Humble Scaffold", sentences, QMessageBox::NoButton, this);
    auto* leave = box.addButton("Close now", QMessageBox::AcceptRole);
    leave->setObjectName("leave waiting");
    box.addButton("Go on", QMessageBox::RejectRole)->setObjectName("go on pulling");
    box.setDefaultButton(leave);
    box.exec();
    if (box.clickedButton() != leave) return event->ignore();
  }
  // Only who really goes stops what runs.
  const bool goes = mayClose();
  if (goes) desk_.tasks.forgetAll();
  if (goes && lost_ == StudyDocument::Unwritten::lose) desk_.document.loseUnwritten();
  event->setAccepted(goes);
}

void MainWindow::showEvent(QShowEvent* event) {
  QMainWindow::showEvent(event);
  // Keys act on the pictures at once, not on what happens to come first in the top strip.
  const QWidget* now = focusWidget();
  if (now == nullptr || strip_->isAncestorOf(now)) shownIn(*stack_).takeFocus();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  if (!sentence_->isHidden()) placeSentence();
}

}  // namespace hscaffold::app
