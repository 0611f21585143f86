/// The window: top strip, the Bench, and everything that is asked of the study as a whole.
#pragma once

#include <QMainWindow>
#include <QPointer>

#include "app/bench/bench_view.h"
#include "app/session.h"

class QLabel;
class QLineEdit;
class QPushButton;
class QToolButton;

namespace hscaffold::app {

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(StudySession& session);
  [[nodiscard]] BenchView& bench() { return *bench_; }
  /// Opens a study, or says why not. @return whether it is open now
  bool openStudy(const QString& path);
  static QStringList recentFiles();
  /// The sentence shown at the bottom now; empty if there is none.
  [[nodiscard]] QString shownSentence() const;

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void closeEvent(QCloseEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  QWidget* topStrip();
  void addActions();
  void rebuildLooks();
  void refresh();
  void say(const QString& sentence, bool bad);
  void placeSentence();
  void popOver(QWidget* panel, QWidget* under);
  void askOpenStudy();
  void askSaveAs();
  void askPicture();
  void askExport();
  void askExportMap();
  void bringIn(const std::vector<std::filesystem::path>& files);
  void bringInFigures(const std::filesystem::path& file, bool clip);
  void paste();
  void showHelp();
  void remember(const QString& path);
  QAction* action(const QString& text, const QString& keys, const std::function<void()>& run);

  StudySession& session_;
  BenchView* bench_ = nullptr;
  QLineEdit* title_ = nullptr;
  QPushButton *frame_ = nullptr, *engine_ = nullptr, *checks_ = nullptr, *pull_ = nullptr;
  QToolButton *undo_ = nullptr, *redo_ = nullptr, *menu_ = nullptr;
  QLabel* sentence_ = nullptr;
  QTimer sentenceTime_;
  QPointer<QWidget> popover_;
  QList<QAction*> actions_;
};

}  // namespace hscaffold::app
