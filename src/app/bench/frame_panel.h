/// The frame and ratio calculator.
#pragma once

#include <QFrame>

#include "app/desk.h"
#include "core/frame/frame.h"

class QComboBox;
class QLabel;
class QPushButton;
class QVBoxLayout;

namespace hscaffold::app {

class ScrubField;

class FramePanel : public QFrame {
  Q_OBJECT
 public:
  explicit FramePanel(Desk& desk, QWidget* parent = nullptr);

 private:
  void refresh();
  void apply(Size size, const QString& name);
  void offerUsual();
  void offer(const std::vector<SizeOffer>& sizes);

  Desk& desk_;
  ScrubField *width_, *height_, *megapixels_, *scale_, *step_;
  QPushButton* locked_;
  QComboBox* ratios_;
  QLabel* now_;
  QVBoxLayout* offers_;
};

}  // namespace hscaffold::app
