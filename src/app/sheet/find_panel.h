/// What is to be found: what each guide has to hold, how far the look has to move, what may move, and with how many
/// proofs.
#pragma once

#include <QFrame>

#include "app/desk.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;

namespace hscaffold::app {

class ScrubField;

class FindPanel : public QFrame {
  Q_OBJECT
 public:
  explicit FindPanel(Desk& desk, const FindFrom& from = {}, QWidget* parent = nullptr);
  /// As it is set now. @throws Problem (badInput)
  [[nodiscard]] FindPlan plan() const;

 signals:
  void begun(qint64 sheet);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  struct Row {
    std::string guide;
    QComboBox* wish;
    ScrubField* hold;
  };
  struct Freedom {
    QCheckBox* box;
    Axis axis;
  };
  ScrubField* field(const QString& name, const QString& tip, const Limits& limits, double value);
  void refresh();
  void begin();

  Desk& desk_;
  Recipe base_;
  std::vector<Row> rows_;
  std::vector<Freedom> freedoms_;
  QComboBox* look_;
  ScrubField *shift_, *budget_, *minutes_, *seeds_;
  QLabel *cost_, *doubt_;
  QPushButton* begin_;
};

}  // namespace hscaffold::app
