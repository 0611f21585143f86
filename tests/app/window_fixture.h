/// What tests of the window share: an application with a home of its own, the pointer, and waiting for what is
/// computed.
#pragma once

#include <QAbstractButton>
#include <QPointF>
#include <QTemporaryDir>
#include <QTest>
#include <filesystem>
#include <functional>
#include <vector>

#include "app/bench/bench_view.h"
#include "app/desk.h"
#include "app/main_window.h"
#include "fixtures.h"
#include "test_program.h"

struct sqlite3;

namespace fixtures {

/// What waiting is multiplied by: sanitizers make everything ten times slower.
#ifdef HSCAFFOLD_SANITIZED
inline constexpr int patience = 10;
#else
inline constexpr int patience = 1;
#endif

/// Waits until nothing is being computed and everything computed has arrived.
bool settle(hscaffold::app::Desk& desk, int milliseconds = 120'000);

/// The pointer goes down at the first place, over the others, and up at the last one; in frame pixels.
void dragOver(hscaffold::app::Table& table, const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys = {},
              bool letGo = true);

void writeScene(const std::filesystem::path& path, int number = 1);

/// Holds a study's database as a program does that is writing, as long as it lives.
class HeldDatabase {
 public:
  explicit HeldDatabase(const std::filesystem::path& path);
  HeldDatabase(const HeldDatabase&) = delete;
  HeldDatabase& operator=(const HeldDatabase&) = delete;
  ~HeldDatabase();

 private:
  sqlite3* database_ = nullptr;
};

/// A window on a small untitled study, made anew for every test, and what tests reach for in it. Widgets are found by
/// their object names: wording may change.
class WindowTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void cleanup();

 protected:
  /// What every test of a file begins with; runs in the shown window.
  virtual void prepare() {}

  [[nodiscard]] QString path(const char* name) const { return folder_->filePath(name); }
  [[nodiscard]] hscaffold::app::Desk& desk() const { return *desk_; }
  [[nodiscard]] hscaffold::app::StudyDocument& document() const { return desk_->document; }
  [[nodiscard]] const hscaffold::StudyState& state() const { return desk_->document.state(); }
  [[nodiscard]] hscaffold::app::BenchView& bench() const { return *window_->findChild<hscaffold::app::BenchView*>(); }
  [[nodiscard]] hscaffold::app::SourceTable& table() const { return bench().source(); }
  /// The selected guide.
  [[nodiscard]] const hscaffold::Guide& guide() const { return *state().selectedGuide(); }
  [[nodiscard]] const hscaffold::Map& map() const { return *desk_->maps.mapOf(guide().id)->map; }

  /// The widget with this name inside another one, or in the window; there must be one.
  template <class Widget = QAbstractButton>
  [[nodiscard]] Widget& part(const char* name, const QWidget* inside = nullptr) const {
    auto* found = (inside != nullptr ? inside : window_.get())->findChild<Widget*>(name);
    if (found == nullptr) qFatal("there is no \"%s\"", name);
    return *found;
  }
  /// Clicks the button with this name.
  void click(const char* name, const QWidget* inside = nullptr) const;
  /// An entry of the menus of the tool row, by how it begins; null when there is none.
  [[nodiscard]] QAction* menuAction(const QString& begins) const;

  void settle() const { QVERIFY(fixtures::settle(*desk_)); }
  /// Drops a scene of the almanac on the window as "tea.png".
  void bringInScene();
  /// A drop of files on the window.
  void dropFiles(const QStringList& files) const;
  void add(const std::string& kind) const;
  /// See dragOver; on the source table.
  void drag(const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys = {}, bool letGo = true) const {
    fixtures::dragOver(table(), inFrame, keys, letGo);
  }
  /// A drag with the left button in six moves, from and to places on the widget.
  static void dragOn(QWidget& widget, QPoint from, QPoint to, Qt::KeyboardModifiers keys = {});
  void undo() const { pressInWindow(Qt::Key_Z, Qt::ControlModifier); }
  void redo() const { pressInWindow(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier); }
  /// A key typed while the source table has the focus.
  void press(Qt::Key key, Qt::KeyboardModifiers keys = {}) const { QTest::keyClick(&table(), key, keys); }
  /// A key typed in the window.
  void pressInWindow(Qt::Key key, Qt::KeyboardModifiers keys = {}) const { QTest::keyClick(window_.get(), key, keys); }
  /// A text typed over what a field has, and Return.
  static void typeInto(QWidget& field, const QString& text);
  /// Does `work`, during which one question must come, and answers it with the button of this name; empty for Esc.
  void answering(const char* name, const std::function<void()>& work) const;
  /// Does something that asks for the name of a file, and gives it.
  void naming(const QString& file, const std::function<void()>& work) const;
  /// Opens the menu of a place on a widget and chooses from it. @return whether it was offered
  /// @param name  of an entry, or of one in the menu of an entry ("Entry in it", or "Entry/Entry in it")
  [[nodiscard]] bool chooseFromMenu(QWidget& widget, QPoint at, const QString& name) const;
  /// The same of the menu that `open` opens.
  [[nodiscard]] bool chooseFromMenu(const QString& name, const std::function<void()>& open) const;
  /// Keys reach the window again after something else had them.
  void activate() const;
  void closeWindow();
  /// The program ended and begun again, with another untitled study.
  void beginAgain() {
    closeWindow();
    init();
  }

  std::unique_ptr<QTemporaryDir> folder_;
  std::unique_ptr<hscaffold::app::Desk> desk_;
  std::unique_ptr<hscaffold::app::MainWindow> window_;
};

/// The same with a scene of the almanac as its first reference, and edges of it.
class SceneWindowTest : public WindowTest {
  Q_OBJECT
 protected:
  void prepare() override { bringInScene(); }
};

/// The same so small that many proofs of it are pulled in no time.
class QuickWindowTest : public SceneWindowTest {
  Q_OBJECT
 protected:
  void prepare() override;
};

/// Something dragged over a widget and let go there.
void letGo(QWidget& over, QPointF at, const QMimeData& data);

}  // namespace fixtures
