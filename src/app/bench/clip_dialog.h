/// One frame of a motion clip becomes a figure: which frame, seen from where, and which joint is which.
#pragma once

#include <QDialog>
#include <vector>

#include "core/pose/bvh.h"

class QComboBox;
class QLabel;
class QPushButton;
class QSlider;

namespace hscaffold::app {

class ClipDialog : public QDialog {
  Q_OBJECT
 public:
  ClipDialog(pose::BvhClip clip, const QString& name, QWidget* parent = nullptr);
  /// The frame as it is shown; empty while joints are missing.
  [[nodiscard]] std::optional<pose::Figure> figure() const;
  [[nodiscard]] QSlider& scrubber() { return *frame_; }
  [[nodiscard]] QComboBox& jointFor(const std::string& point);

 private:
  class Preview;
  void refresh();

  pose::BvhClip clip_;
  pose::BvhMapping mapping_;
  Preview* preview_;
  QSlider *frame_, *turn_, *rise_;
  QLabel *frameText_, *turnText_, *riseText_, *missing_;
  QPushButton* take_;
  std::vector<std::pair<std::string, QComboBox*>> joints_;
};

}  // namespace hscaffold::app
