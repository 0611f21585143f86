/// An on/off switch in a kind's colour.
#pragma once

#include <QAbstractButton>

namespace hscaffold::app {

class SwitchButton : public QAbstractButton {
  Q_OBJECT
 public:
  explicit SwitchButton(const QColor& colour, QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override { return {28, 18}; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  QColor colour_;
};

}  // namespace hscaffold::app
