/// What a sheet is to go through: settings and their values across and down, seeds, size; and what that costs.
#pragma once

#include <QFrame>
#include <optional>

#include "app/desk.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPlainTextEdit;
class QPushButton;

namespace hscaffold::app {

class ScrubField;

class StripPanel : public QFrame {
  Q_OBJECT
 public:
  /// @param over  the setting that goes across at first; without values they are chosen. None: seeds alone.
  StripPanel(Desk& desk, const std::optional<Axis>& over, QWidget* parent = nullptr);
  /// As it is set now. @throws Problem (badInput)
  [[nodiscard]] SheetPlan plan() const;

 signals:
  void pulled(qint64 sheet);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  /// A row of the panel: one axis.
  struct Row {
    QComboBox* setting;
    QLineEdit* values;  ///< "0.2..1.2/6" or "0.2, 0.5, 1"
    QPlainTextEdit* prompts;
    QLabel* shown;
  };
  Row addRow(class QGridLayout& grid, int at, const QString& name, const char* objectName);
  void fill(Row& row, const std::optional<Axis>& axis);
  [[nodiscard]] std::optional<Axis> axisOf(const Row& row) const;
  void refresh();
  void pull();

  Desk& desk_;
  Recipe base_;
  std::vector<Axis> choices_;  ///< settings without values, by index in the boxes less one
  Row across_{}, down_{};
  ScrubField* seeds_;
  QCheckBox *random_, *small_, *shared_, *trial_;
  QLabel *cost_, *doubt_;
  QPushButton* pull_;
  bool manyAreMeant_ = false;  ///< more than `manyCells` were asked about
};

/// Of cheap proofs, for the study's engine: smaller ones are quicker still, but fine lines are lost in them.
Size cheapSize(const Desk& desk, Size frame);
/// "about 20 s"
QString timeFor(double milliseconds);

/// Values that make sense about what a recipe has now.
Axis usualValues(const Recipe& base, Setting setting, const std::string& of);

}  // namespace hscaffold::app
