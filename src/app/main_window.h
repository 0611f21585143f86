/// The window: top strip, one of the main views, and everything that is asked of the study as a whole.
#pragma once

#include <QMainWindow>
#include <QTimer>
#include <filesystem>
#include <functional>
#include <vector>

#include "app/document/study_document.h"

class QLabel;
class QStackedWidget;

namespace hscaffold::app {

class Desk;
class MainView;
class TopStrip;

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(Desk& desk);
  /// Opens a study, or says why not. @return whether it is open now
  bool openStudy(const QString& path);
  /// The same without waiting: what is wrong with it is said.
  void openStudyLater(const QString& path);
  static QStringList recentFiles();
  /// The sentence shown now; empty if there is none.
  [[nodiscard]] QString shownSentence() const;
  /// Shows another main view, by its place in the switch; what is not there is ignored.
  void showView(int number);

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void closeEvent(QCloseEvent*) override;
  void showEvent(QShowEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void addView(MainView* view);
  void addActions();
  void fillMenu();
  void refresh();
  void say(const QString& sentence, bool bad);
  void styleSentence();
  void placeSentence();
  /// Runs what may fail, and says what went wrong.
  void guarded(const std::function<void()>& job);
  void askOpenStudy();
  enum class Waits { no, yes };
  /// @param waits  until it is saved; otherwise the window goes on.
  void askSaveAs(Waits waits = Waits::no);
  void askPicture();
  void askExport();
  void askExportMap();
  /// Figures go to the pose guide, everything else becomes references and guides of its own.
  void bringInFiles(const std::vector<std::filesystem::path>& files);
  void bringInFigures(const std::filesystem::path& file, bool clip);
  void copyFigure();
  void paste();
  void showHelp();
  void remember(const QString& path);
  [[nodiscard]] QString stillToCome() const;
  [[nodiscard]] bool mayClose();
  QAction* action(const QString& text, const QString& keys, const std::function<void()>& run);

  StudyDocument::Unwritten lost_ = StudyDocument::Unwritten::refuse;  ///< what was answered last
  Desk& desk_;
  TopStrip* strip_;
  QStackedWidget* stack_;
  std::vector<MainView*> views_;
  QLabel* sentence_;
  bool sentenceIsBad_ = false;
  QTimer sentenceTime_;
  QAction* export_ = nullptr;
  QList<QAction*> actions_;
};

}  // namespace hscaffold::app
