#include "app/main_window.h"

#include <QApplication>
#include <QClipboard>
#include <QCloseEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QScreen>
#include <QSettings>
#include <QTextBrowser>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWidgetAction>

#include "app/bench/checks_panel.h"
#include "app/bench/clip_dialog.h"
#include "app/bench/frame_panel.h"
#include "app/help.h"
#include "app/theme/icons.h"
#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr int mostRecent = 8;
constexpr const char* studyFilter = "Studies (*.scaffold)";

}  // namespace

MainWindow::MainWindow(StudySession& session) : session_(session) {
  setAcceptDrops(true);
  // On a small or strongly scaled screen the window takes what there is.
  resize(QSize(1280, 800).boundedTo(screen()->availableSize()));
  setMinimumSize(1040, 640);
  addActions();
  rebuildLooks();
  sentenceTime_.setSingleShot(true);
  connect(&sentenceTime_, &QTimer::timeout, this, [this] { sentence_->hide(); });
  connect(&session_, &StudySession::changed, this, &MainWindow::refresh);
  connect(&session_, &StudySession::pathChanged, this, [this] {
    if (!session_.path().empty()) remember(QString::fromStdString(session_.path().string()));
    refresh();
  });
  connect(&session_, &StudySession::mapChanged, this, &MainWindow::refresh);
  connect(&session_, &StudySession::pullStarted, this, &MainWindow::refresh);
  connect(&session_, &StudySession::pullEnded, this, &MainWindow::refresh);
  connect(&session_, &StudySession::problem, this, [this](const QString& sentence) { say(sentence, true); });
  connect(&session_, &StudySession::notice, this, [this](const QString& sentence) { say(sentence, false); });
}

/// Everything that holds colours is made anew when the theme changes.
void MainWindow::rebuildLooks() {
  auto* central = new QWidget;
  auto* column = new QVBoxLayout(central);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  column->addWidget(topStrip());
  bench_ = new BenchView(session_);
  column->addWidget(bench_, 1);
  connect(bench_, &BenchView::openAsked, this, &MainWindow::askPicture);
  connect(bench_, &BenchView::exportAsked, this, &MainWindow::askExport);
  connect(bench_, &BenchView::exportMapAsked, this, &MainWindow::askExportMap);
  connect(bench_, &BenchView::said, this, [this](const QString& sentence) { say(sentence, false); });
  delete takeCentralWidget();
  setCentralWidget(central);
  sentence_ = new QLabel(central);
  sentence_->setWordWrap(true);
  sentence_->setContentsMargins(14, 8, 14, 8);
  sentence_->hide();
  refresh();
}

QWidget* MainWindow::topStrip() {
  auto* strip = new QFrame;
  strip->setProperty("role", "panel");
  strip->setFixedHeight(44);
  auto* row = new QHBoxLayout(strip);
  row->setContentsMargins(10, 5, 12, 5);
  row->setSpacing(8);
  menu_ = new QToolButton;
  menu_->setIcon(icon("menu"));
  menu_->setToolTip("Study, edit, view, help (F10)");
  menu_->setAccessibleName("Menu");
  menu_->setShortcut(QKeySequence("F10"));
  menu_->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(menu_);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    for (QAction* item : actions_) {
      if (item->text() == "Undo" || item->text() == "Bring in a picture..." || item->text() == "Fit" ||
          item->text() == "Help")
        menu->addSeparator();
      menu->addAction(item);
      if (item->text() != "Open study...") continue;
      auto* recent = menu->addMenu("Open recent");
      for (const QString& path : recentFiles())
        recent->addAction(QFileInfo(path).fileName(), this, [this, path] { openStudy(path); })->setToolTip(path);
      recent->setToolTipsVisible(true);
      recent->setEnabled(!recent->isEmpty());
    }
  });
  menu_->setMenu(menu);
  row->addWidget(menu_);
  title_ = new QLineEdit;
  title_->setProperty("role", "bare");
  title_->setFont(textFont(12, QFont::DemiBold));
  title_->setAccessibleName("Title of the study");
  title_->setFixedWidth(212);
  connect(title_, &QLineEdit::editingFinished, this, [this] {
    const std::string text = title_->text().trimmed().toStdString();
    if (!text.empty() && text != session_.state().title)
      session_.change("Title", [&](StudyState& s) { s.title = text; });
    title_->clearFocus();
  });
  row->addWidget(title_);
  undo_ = new QToolButton;
  undo_->setIcon(icon("undo"));
  undo_->setAccessibleName("Undo");
  redo_ = new QToolButton;
  redo_->setIcon(icon("redo"));
  redo_->setAccessibleName("Redo");
  connect(undo_, &QToolButton::clicked, &session_, &StudySession::undo);
  connect(redo_, &QToolButton::clicked, &session_, &StudySession::redo);
  row->addWidget(undo_);
  row->addWidget(redo_);
  row->addSpacing(6);
  const auto chip = [&](int width, const QString& tip) {
    auto* button = new QPushButton;
    button->setProperty("role", "chip");
    button->setMinimumWidth(width);
    button->setToolTip(tip);
    row->addWidget(button);
    return button;
  };
  frame_ = chip(150, "Frame and ratio (Ctrl+R)");
  engine_ = chip(140, "What makes the pictures");
  checks_ = chip(210, "What is doubtful before a pull (Ctrl+K)");
  connect(frame_, &QPushButton::clicked, this, [this] { popOver(new FramePanel(session_, this), frame_); });
  connect(checks_, &QPushButton::clicked, this, [this] { popOver(new ChecksPanel(session_, this), checks_); });
  connect(engine_, &QPushButton::clicked, this, [this] {
    auto* panel = new QFrame(this);
    panel->setProperty("role", "popover");
    auto* layout = new QVBoxLayout(panel);
    const auto info = session_.engineInfo();
    auto* name = new QLabel(QString::fromStdString(info.name));
    name->setProperty("role", "title");
    auto* note = new QLabel(QString("%1\n\nSides in steps of %2, up to %3 megapixels.")
                                .arg(QString::fromStdString(info.note))
                                .arg(info.sizeStep)
                                .arg(info.mostPixels / 1'000'000));
    note->setWordWrap(true);
    note->setFixedWidth(330);
    layout->addWidget(name);
    layout->addWidget(note);
    popOver(panel, engine_);
  });
  row->addStretch(1);
  pull_ = new QPushButton("Pull one");
  pull_->setProperty("role", "primary");
  pull_->setFixedSize(104, 30);
  connect(pull_, &QPushButton::clicked, this, [this] {
    if (session_.pulling())
      session_.stopPull();
    else
      session_.pull();
  });
  row->addWidget(pull_);
  return strip;
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
  const auto guarded = [this](const std::function<void()>& run) {
    return [this, run] {
      try {
        run();
      } catch (const std::exception& error) {
        say(QString::fromStdString(error.what()), true);
      }
    };
  };
  action("New study", "Ctrl+N", guarded([this] { session_.createUntitled(); }));
  action("Open study...", "Ctrl+O", [this] { askOpenStudy(); });
  action("Save as...", "Ctrl+Shift+S", [this] { askSaveAs(); });
  action("Export shown proof...", "Ctrl+E", [this] { askExport(); });
  action("Export map...", "Ctrl+Shift+E", [this] { askExportMap(); });
  action("Bring in a picture...", "Ctrl+I", [this] { askPicture(); });
  action("Copy figure", "Ctrl+C", [this] {
    PoseWork& pose = bench_->source().pose();
    if (const auto figure = pose.selected())
      pose.copy(*figure);
    else
      say("Choose a figure of a pose guide first.", false);
  });
  action("Paste picture or figure", "Ctrl+V", [this] { paste(); });
  action("Undo", "Ctrl+Z", [this] { session_.undo(); });
  action("Redo", "Ctrl+Shift+Z", [this] { session_.redo(); });
  action("Pull one", "Ctrl+Return", [this] { session_.pull(); });
  action("Stop pulling", "Ctrl+.", [this] { session_.stopPull(); });
  action("Fit", "Ctrl+0", [this] { bench_->view().fit(); });
  action("Source over the whole width", "F6", [this] {
    bench_->showTables(bench_->tables() == BenchView::Tables::source ? BenchView::Tables::both
                                                                     : BenchView::Tables::source);
  });
  action("Proof over the whole width", "F7", [this] {
    bench_->showTables(bench_->tables() == BenchView::Tables::proof ? BenchView::Tables::both
                                                                    : BenchView::Tables::proof);
  });
  action("Place the reference", "Ctrl+P", [this] { bench_->source().setPlacing(!bench_->source().placing()); });
  action("Pose library", "Ctrl+Shift+P", [this] { bench_->showLibrary(!bench_->libraryShown()); });
  action("Compare line maps...", "Ctrl+L", [this] { bench_->compareLines(); });
  action("Dusk or day", "F8", [this] {
    applyTheme(themeName() == ThemeName::dusk ? ThemeName::day : ThemeName::dusk);
    QSettings().setValue("theme", themeName() == ThemeName::day ? "day" : "dusk");
    rebuildLooks();
  });
  action("Help", "F1", [this] { showHelp(); });
  action("Quit", "Ctrl+Q", [this] { close(); });
  auto* frameKey = new QAction(this);
  frameKey->setShortcut(QKeySequence("Ctrl+R"));
  connect(frameKey, &QAction::triggered, this, [this] { frame_->click(); });
  addAction(frameKey);
  auto* checksKey = new QAction(this);
  checksKey->setShortcut(QKeySequence("Ctrl+K"));
  connect(checksKey, &QAction::triggered, this, [this] { checks_->click(); });
  addAction(checksKey);
}

void MainWindow::refresh() {
  if (session_.path().empty()) return;
  const auto& state = session_.state();
  if (!title_->hasFocus()) {
    title_->setText(QString::fromStdString(state.title));
    title_->setCursorPosition(0);
  }
  title_->setToolTip(session_.isUntitled() ? QString("Kept as you work; Save as gives it a place of its own")
                                           : QString::fromStdString(session_.path().string()));
  setWindowTitle(QString("%1 - Humble Scaffold").arg(QString::fromStdString(state.title)));
  frame_->setText(QString("%1 x %2   %3")
                      .arg(state.frame.width)
                      .arg(state.frame.height)
                      .arg(QString::fromStdString(ratioName(state.frame))));
  engine_->setText(QString::fromUtf8("\xE2\x97\x8F ") + QString::fromStdString(session_.engineInfo().name));
  engine_->setStyleSheet(QString());
  const auto checks = session_.checks();
  if (checks.empty()) {
    checks_->setText(QString::fromUtf8("\xE2\x9C\x93 No doubts"));
  } else {
    const Check& worst = checks.front();
    const QString mark =
        worst.severity == Severity::bad ? QString::fromUtf8("\xE2\x9C\x95 ") : QString::fromUtf8("\xE2\x96\xB2 ");
    static const std::map<std::string, QString> brief = {{"no-guide", "no guide on"},
                                                         {"few-edges", "few edges"},
                                                         {"few-lines", "few lines"},
                                                         {"hidden-retouch", "retouch hidden"},
                                                         {"no-region", "region empty"},
                                                         {"no-step", "range covers no step"},
                                                         {"small-reference", "small reference"},
                                                         {"swapped", "sides swapped?"},
                                                         {"no-weight", "weight is 0"},
                                                         {"high-load", "high load"},
                                                         {"no-reference", "no reference"},
                                                         {"off-step", "size step"},
                                                         {"no-figure", "no figure"},
                                                         {"figure-outside", "figure outside"},
                                                         {"prompt-pose", "prompt and pose differ"}};
    const auto found = brief.find(worst.id.substr(0, worst.id.find(':')));
    checks_->setText(QString("%1%2: %3")
                         .arg(mark, checks.size() == 1 ? QString("1 check") : QString("%1 checks").arg(checks.size()),
                              found != brief.end() ? found->second : QString()));
  }
  const QColor checkColour = checks.empty()                             ? theme().good
                             : checks.front().severity == Severity::bad ? theme().bad
                                                                        : theme().doubt;
  checks_->setStyleSheet(QString("QPushButton { color: %1; }").arg(checkColour.name()));
  undo_->setEnabled(session_.history().canUndo());
  redo_->setEnabled(session_.history().canRedo());
  undo_->setToolTip(session_.history().canUndo()
                        ? "Undo: " + QString::fromStdString(session_.history().undoName()) + " (Ctrl+Z)"
                        : QString("Nothing to undo"));
  redo_->setToolTip(session_.history().canRedo()
                        ? "Redo: " + QString::fromStdString(session_.history().redoName()) + " (Ctrl+Shift+Z)"
                        : QString("Nothing to redo"));
  pull_->setText(session_.pulling() ? "Stop" : "Pull one");
  pull_->setToolTip(session_.pulling()
                        ? "Stop this pull (Ctrl+.)"
                        : QString("Make a proof, about %1 s (Ctrl+Return)").arg(session_.estimate() / 1000, 0, 'f', 1));
}

void MainWindow::say(const QString& sentence, bool bad) {
  sentence_->setText((bad ? QString::fromUtf8("\xE2\x9C\x95  ") : QString()) + sentence);
  sentence_->setStyleSheet(
      QString("background: %1; color: %2; border: 1px solid %3; border-radius: 3px;")
          .arg(theme().raised.name(), theme().text.name(), (bad ? theme().bad : theme().line).name()));
  placeSentence();
  sentence_->show();
  sentence_->raise();
  sentenceTime_.start(bad ? 12000 : 6000);
}

QString MainWindow::shownSentence() const { return sentence_->isHidden() ? QString() : sentence_->text(); }

void MainWindow::placeSentence() {
  const int width = std::min(640, centralWidget()->width() - 40);
  sentence_->setFixedWidth(width);
  sentence_->adjustSize();
  sentence_->move((centralWidget()->width() - width) / 2, 52);
}

void MainWindow::popOver(QWidget* panel, QWidget* under) {
  if (popover_) popover_->deleteLater();
  panel->setWindowFlags(Qt::Popup);
  panel->setAttribute(Qt::WA_DeleteOnClose);
  panel->adjustSize();
  panel->move(under->mapToGlobal(QPoint(0, under->height() + 4)));
  panel->show();
  popover_ = panel;
}

bool MainWindow::openStudy(const QString& path) {
  try {
    session_.open(path.toStdString());
    return true;
  } catch (const std::exception& error) {
    say(QString::fromStdString(error.what()), true);
    return false;
  }
}

void MainWindow::askOpenStudy() {
  const QString path = QFileDialog::getOpenFileName(this, "Open study", {}, studyFilter);
  if (!path.isEmpty()) openStudy(path);
}

void MainWindow::askSaveAs() {
  QString path = QFileDialog::getSaveFileName(
      this, "Save study as", QString::fromStdString(session_.state().title) + ".scaffold", studyFilter);
  if (path.isEmpty()) return;
  if (!path.endsWith(".scaffold")) path += ".scaffold";
  try {
    session_.saveAs(path.toStdString());
  } catch (const std::exception& error) {
    say(QString::fromStdString(error.what()), true);
  }
}

void MainWindow::askPicture() {
  const auto names = QFileDialog::getOpenFileNames(
      this, "Bring in pictures", {},
      "Pictures, drawings, key points and clips (*.png *.jpg *.jpeg *.webp *.tif *.tiff *.exr *.bmp *.svg *.json "
      "*.bvh);;All files (*)");
  std::vector<std::filesystem::path> files;
  for (const QString& name : names) files.emplace_back(name.toStdString());
  bringIn(files);
}

/// Figures go to the pose guide, everything else becomes references and guides of its own.
void MainWindow::bringIn(const std::vector<std::filesystem::path>& files) {
  std::vector<std::filesystem::path> pictures;
  for (const auto& file : files) {
    const QString end = QString::fromStdString(file.extension().string()).toLower();
    if (end != ".json" && end != ".bvh") {
      pictures.push_back(file);
      continue;
    }
    try {
      bringInFigures(file, end == ".bvh");
    } catch (const std::exception& error) {
      say(QString::fromStdString(error.what()), true);
    }
  }
  if (!pictures.empty()) session_.bringIn(pictures);
}

void MainWindow::bringInFigures(const std::filesystem::path& file, bool clip) {
  PoseWork& pose = bench_->source().pose();
  const QString name = QString::fromStdString(file.filename().string());
  if (clip) {
    const Bytes bytes = readWholeFile(file);
    auto* dialog = new ClipDialog(pose::bvhFrom(textOf(bytes), name.toStdString()), name, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog, file] {
      if (auto figure = dialog->figure()) {
        figure->name = file.stem().string();
        bench_->source().pose().add({inTheMiddle(*figure, session_.state().frame)}, "Bring in a clip's frame");
      }
    });
    dialog->open();
    return;
  }
  auto read = session_.readFigures(file);
  std::vector<pose::Figure> figures;
  for (const auto& figure : read.figures.figures) figures.push_back(*figure);
  if (figures.empty()) throw badInput(file.filename().string() + " holds no figure.");
  pose.add(std::move(figures), "Bring in " + name);
  if (!read.note.empty()) say(QString::fromStdString(read.note), false);
}

void MainWindow::askExportMap() {
  const auto& state = session_.state();
  const Guide* guide = state.guide(state.selectedGuide);
  if (guide == nullptr || session_.mapOf(guide->id) == nullptr) return say("There is no map to export yet.", false);
  const Kind& kind = kindOf(guide->kind);
  const QString path =
      QFileDialog::getSaveFileName(this, "Export map", QString::fromStdString(guide->name) + ".png",
                                   kind.figures ? "PNG picture (*.png);;SVG shapes (*.svg);;COCO key points (*.json)"
                                   : kind.lines ? "PNG picture (*.png);;SVG strokes (*.svg)"
                                                : "PNG picture (*.png)");
  if (path.isEmpty()) return;
  try {
    session_.writeMap(guide->id, path.toStdString());
    say(QString("Wrote %1.").arg(QFileInfo(path).fileName()), false);
  } catch (const std::exception& error) {
    say(QString::fromStdString(error.what()), true);
  }
}

void MainWindow::askExport() {
  const auto number = session_.state().shownProof;
  if (session_.proof(number) == nullptr) return say("There is no proof to export yet.", false);
  QString path = QFileDialog::getSaveFileName(this, "Export proof", QString("proof-%1.png").arg(number),
                                              "PNG with its recipe (*.png)");
  if (path.isEmpty()) return;
  if (!path.endsWith(".png")) path += ".png";
  try {
    session_.writeProof(number, path.toStdString());
    say("Written to " + path, false);
  } catch (const std::exception& error) {
    say(QString::fromStdString(error.what()), true);
  }
}

void MainWindow::paste() {
  const QMimeData* clip = QApplication::clipboard()->mimeData();
  std::vector<std::filesystem::path> files;
  for (const QUrl& url : clip->urls())
    if (url.isLocalFile()) files.emplace_back(url.toLocalFile().toStdString());
  if (files.empty() && bench_->source().pose().paste()) return;
  if (!files.empty())
    bringIn(files);
  else if (clip->hasImage())
    session_.bringIn(qvariant_cast<QImage>(clip->imageData()), "pasted.png");
  else
    say("There is no picture or figure on the clipboard.", false);
}

void MainWindow::showHelp() {
  auto* window = new QDialog(this);
  window->setAttribute(Qt::WA_DeleteOnClose);
  window->setWindowTitle("Help");
  window->resize(640, 620);
  auto* text = new QTextBrowser;
  text->setMarkdown(helpText());
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
  std::vector<std::filesystem::path> pictures;
  for (const QUrl& url : event->mimeData()->urls()) {
    if (!url.isLocalFile()) continue;
    if (url.toLocalFile().endsWith(".scaffold")) {
      openStudy(url.toLocalFile());
      return;
    }
    pictures.emplace_back(url.toLocalFile().toStdString());
  }
  event->acceptProposedAction();
  if (!pictures.empty())
    bringIn(pictures);
  else if (event->mimeData()->hasImage())
    session_.bringIn(qvariant_cast<QImage>(event->mimeData()->imageData()), "dropped.png");
}

void MainWindow::closeEvent(QCloseEvent* event) {
  session_.seal();
  event->accept();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  if (sentence_ != nullptr && !sentence_->isHidden()) placeSentence();
}

}  // namespace hscaffold::app
