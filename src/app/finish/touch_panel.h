/// The chosen touch-up: words for here only, how it is pulled, its guides, its tries side by side.
#pragma once

#include <QFrame>

#include "app/desk.h"

class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;
class QListWidget;
class QPlainTextEdit;
class QPushButton;
class QSlider;

namespace hscaffold::app {

class ScrubField;
class SwitchButton;

class TouchPanel : public QFrame {
  Q_OBJECT
 public:
  explicit TouchPanel(Desk& desk, QWidget* parent = nullptr);
  /// Pulls as many tries as are asked for.
  void pull();
  /// The try before or after the one that is used.
  void useNext(int by);

 private:
  struct Row {
    QSlider* slider;
    ScrubField* field;
  };
  struct GuideRow {
    std::string id;
    QLabel *mark, *name;
    ScrubField* weight;
    SwitchButton* on;
  };
  Row addRow(QGridLayout& grid, int at, const QString& label, const char* name, const Limits& limits,
             const QString& tip, const std::function<void(TouchUp&, double)>& set);
  void refresh();
  void refreshGuides(const Final& final, const TouchUp& touchUp);
  void refreshTries(const TouchUp& touchUp);
  /// A change of the chosen touch-up.
  void edit(const QString& name, const std::function<void(TouchUp&)>& change, const std::string& merge = {});
  [[nodiscard]] const TouchUp* chosen() const;
  void use(int number);

  Desk& desk_;
  QWidget* inside_;
  QLabel *none_, *note_, *seeds_;
  QLineEdit* name_;
  QPlainTextEdit* words_;
  SwitchButton* withBrief_;
  QComboBox* start_;
  Row change_, detail_, rim_, feather_;
  QPushButton *likes_, *pull_, *asItWas_;
  ScrubField* count_;
  QWidget* guidesBox_;
  std::vector<GuideRow> guides_;
  QListWidget* tries_;
  bool filling_ = false;
};

}  // namespace hscaffold::app
