/// A number that is dragged sideways, typed, stepped by arrow keys and reset by a double click.
#pragma once

#include <QDoubleSpinBox>
#include <QPointer>

#include "app/widgets/focus_watch.h"
#include "core/limits.h"

namespace hscaffold::app {

class ScrubField : public QDoubleSpinBox {
  Q_OBJECT
 public:
  explicit ScrubField(QWidget* parent = nullptr);
  void setUp(const Limits& limits);
  void setUp(double minimum, double maximum, double step, int decimals, double defaultValue, const QString& unit = {});
  /// Its context menu offers a test strip over it.
  void offerStrip() { strip_ = true; }
  /// Without emitting, and not while the person is typing in it.
  void showValue(double value);

 signals:
  void edited(double value);  ///< by the person, live
  void finished();            ///< a drag or an entry ended
  void stripAsked();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  bool event(QEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  /// A comma may stand for the decimal point.
  [[nodiscard]] QValidator::State validate(QString& text, int& cursor) const override;
  [[nodiscard]] double valueFromText(const QString& text) const override;

 private:
  void giveFocusBack();
  QPointer<QWidget> before_;  ///< had the focus before a press here took it
  bool byPointer_ = false;    ///< how it came here
  double default_ = 0;
  bool pressed_ = false, dragging_ = false, strip_ = false;
  double startValue_ = 0;
  QPoint start_;
  FocusWatch watch_{[this](QWidget* before, QWidget* now) {
    if (now == this && before != this) before_ = byPointer_ ? before : nullptr;
  }};
};

}  // namespace hscaffold::app
