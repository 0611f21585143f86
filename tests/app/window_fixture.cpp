#include "app/window_fixture.h"

#include <sqlite3.h>

#include <QAbstractButton>
#include <QApplication>
#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QFileDialog>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QMouseEvent>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>
#include <QUrl>

#include "app/document/study_edits.h"
#include "core/image/colour.h"
#include "core/image/png.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace fixtures {

bool settle(hscaffold::app::Desk& desk, int milliseconds) {
  int quiet = 0;
  return QTest::qWaitFor(
      [&] {
        QCoreApplication::processEvents();
        quiet = desk.idle() ? quiet + 1 : 0;
        return quiet > 3;
      },
      patience * milliseconds);
}

void dragOver(hscaffold::app::Table& table, const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys,
              bool letGo) {
  const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton button, Qt::MouseButtons buttons) {
    QMouseEvent event(type, at, table.mapToGlobal(at), button, buttons, keys);
    QApplication::sendEvent(&table, &event);
  };
  send(QEvent::MouseButtonPress, table.toTable(inFrame.front()), Qt::LeftButton, Qt::LeftButton);
  for (const QPointF p : inFrame) send(QEvent::MouseMove, table.toTable(p), Qt::NoButton, Qt::LeftButton);
  if (letGo) send(QEvent::MouseButtonRelease, table.toTable(inFrame.back()), Qt::LeftButton, Qt::NoButton);
}

void writeScene(const std::filesystem::path& path, int number) {
  hscaffold::writeFileAtomically(path, hscaffold::encodePng(hscaffold::toSrgb8(scene(number)).view()));
}

HeldDatabase::HeldDatabase(const std::filesystem::path& path) {
  sqlite3_open(path.string().c_str(), &database_);
  sqlite3_busy_timeout(database_, 10'000);  // who writes just now may end
  sqlite3_exec(database_, "BEGIN IMMEDIATE", nullptr, nullptr, nullptr);
}

HeldDatabase::~HeldDatabase() { sqlite3_close(database_); }

void WindowTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  desk_ = std::make_unique<Desk>();
  window_ = std::make_unique<MainWindow>(*desk_);
  document().createUntitled();
  document().change("Small", [](StudyState& s) {
    s.frame = {480, 320};
    s.brief.seed = 4;
  });
  window_->show();
  QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
  prepare();
}

void WindowTest::cleanup() { closeWindow(); }

void WindowTest::activate() const {
  window_->activateWindow();
  QVERIFY(QTest::qWaitForWindowActive(window_.get()));
}

void WindowTest::closeWindow() {
  window_.reset();
  desk_.reset();
}

void WindowTest::click(const char* name, const QWidget* inside) const {
  QTest::mouseClick(&part(name, inside), Qt::LeftButton);
}

QAction* WindowTest::menuAction(const QString& begins) const {
  for (QToolButton* button : bench().tools().findChildren<QToolButton*>()) {
    if (button->menu() == nullptr) continue;
    emit button->menu()->aboutToShow();
    for (QAction* action : button->menu()->actions())
      if (action->text().startsWith(begins)) return action;
  }
  return nullptr;
}

void WindowTest::bringInScene() {
  writeScene(in(*folder_, "tea.png"));
  dropFiles({path("tea.png")});
  settle();
}

void WindowTest::dropFiles(const QStringList& files) const {
  QMimeData parcel;
  QList<QUrl> urls;
  for (const QString& file : files) urls << QUrl::fromLocalFile(file);
  parcel.setUrls(urls);
  letGo(*window_, {400, 300}, parcel);
}

void WindowTest::add(const std::string& kind) const {
  addGuide(document(), kind);
  settle();
}

void WindowTest::dragOn(QWidget& widget, QPoint from, QPoint to, Qt::KeyboardModifiers keys) {
  QTest::mousePress(&widget, Qt::LeftButton, keys, from);
  for (int i = 1; i <= 6; ++i) {
    const QPoint at = from + (to - from) * i / 6;
    QMouseEvent move(QEvent::MouseMove, at, widget.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, keys);
    QApplication::sendEvent(&widget, &move);
  }
  QTest::mouseRelease(&widget, Qt::LeftButton, keys, to);
}

void WindowTest::naming(const QString& file, const std::function<void()>& work) const {
  int asked = 0;
  QTimer look;
  QObject::connect(&look, &QTimer::timeout, [&] {
    auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    if (dialog == nullptr) return;
    ++asked;
    look.stop();
    auto& field = part<QLineEdit>("fileNameEdit", dialog);
    field.setText(file);
    QTest::keyClick(&field, Qt::Key_Return);
  });
  look.start(5);
  work();
  QCOMPARE(asked, 1);
}

void WindowTest::answering(const char* name, const std::function<void()>& work) const {
  int asked = 0;
  QTimer look;
  QObject::connect(&look, &QTimer::timeout, [&] {
    auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
    if (box == nullptr) return;
    ++asked;
    look.stop();
    if (*name == '\0')
      QTest::keyClick(box, Qt::Key_Escape);
    else
      QTest::mouseClick(&part<QPushButton>(name, box), Qt::LeftButton);
  });
  look.start(5);
  work();
  QCOMPARE(asked, 1);
}

bool WindowTest::chooseFromMenu(QWidget& widget, QPoint at, const QString& name) const {
  return chooseFromMenu(name, [&] {
    QContextMenuEvent event(QContextMenuEvent::Mouse, at, widget.mapToGlobal(at));
    QApplication::sendEvent(&widget, &event);
  });
}

bool WindowTest::chooseFromMenu(const QString& name, const std::function<void()>& open) const {
  bool found = false;
  QTimer look;
  QObject::connect(&look, &QTimer::timeout, [&] {
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    if (menu == nullptr) return;
    look.stop();
    for (QAction* action : menu->actions())
      if (action->text() == name) {
        found = true;
        menu->setActiveAction(action);
        QTest::keyClick(menu, Qt::Key_Return);
        return;
      }
    // In a menu of an entry: as if that had been opened first.
    const QString within = name.section('/', 0, -2), last = name.section('/', -1);
    for (QAction* entry : menu->actions())
      for (QAction* action : entry->menu() != nullptr ? entry->menu()->actions() : QList<QAction*>())
        if (action->text() == last && action->isEnabled() && (within.isEmpty() || entry->text() == within)) {
          found = true;
          menu->close();
          action->trigger();
          return;
        }
    menu->close();
  });
  look.start(5);
  open();
  // The menu is open while the program goes on.
  static_cast<void>(QTest::qWaitFor([&] { return !look.isActive(); }, 2000));
  activate();
  return found;
}

void WindowTest::typeInto(QWidget& field, const QString& text) {
  auto* line = qobject_cast<QLineEdit*>(&field);
  if (line == nullptr) line = field.findChild<QLineEdit*>();
  line->setFocus();
  line->selectAll();
  QTest::keyClicks(line, text);
  QTest::keyClick(line, Qt::Key_Return);
}

void QuickWindowTest::prepare() {
  SceneWindowTest::prepare();
  document().change("Small and quick", [](StudyState& s) {
    s.frame = {192, 128};
    s.brief.prompt = "a tea house over a tidal flat, gouache";
    s.brief.steps = 6;
  });
  settle();
}

void letGo(QWidget& over, QPointF at, const QMimeData& data) {
  QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(&over, &enter);
  QVERIFY(enter.isAccepted());
  QDropEvent drop(at, Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(&over, &drop);
  // What is asked about it is asked after the drop.
  QCoreApplication::processEvents();
}

}  // namespace fixtures
