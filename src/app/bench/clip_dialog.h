/// One frame of a motion clip becomes a figure: which frame, seen from where, and which joint is which.
#pragma once

#include <QDialog>
#include <vector>

#include "core/pose/bvh.h"

class QComboBox;
class QHBoxLayout;
class QLabel;
class QPushButton;
class QSlider;

namespace hscaffold::app {

class ClipDialog : public QDialog {
  Q_OBJECT
 public:
  /// @param take  what its button says
  ClipDialog(pose::BvhClip clip, const QString& name, QWidget* parent = nullptr,
             const QString& take = "Put on picture");
  /// The frame as it is shown; empty while joints are missing.
  [[nodiscard]] std::optional<pose::Figure> figure() const;
  [[nodiscard]] QSlider& scrubber() { return *frame_; }
  [[nodiscard]] const pose::BvhClip& clip() const { return clip_; }
  [[nodiscard]] const pose::BvhMapping& mapping() const { return mapping_; }
  [[nodiscard]] std::size_t frame() const;
  /// Degrees that the camera was turned.
  [[nodiscard]] double turn() const;
  [[nodiscard]] QComboBox& jointFor(const std::string& point);

 private:
  class Preview;
  void refresh();
  /// Frames worth taking, as buttons.
  void findKeys();

  pose::BvhClip clip_;
  pose::BvhMapping mapping_;
  Preview* preview_;
  QSlider *frame_, *turn_, *rise_;
  QLabel *frameText_, *turnText_, *riseText_, *missing_;
  QPushButton* take_;
  QHBoxLayout* keys_;
  pose::BvhMapping keysOf_;  ///< what the buttons were found with
  std::vector<std::pair<std::string, QComboBox*>> joints_;
};

}  // namespace hscaffold::app
