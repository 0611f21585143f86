/// How a map of half tones goes out: which file, how many bits, which size.
#pragma once

#include <QDialog>

#include "files/map_files.h"

class QComboBox;
class QLabel;

namespace hscaffold::app {

class ScrubField;

class MapFileDialog : public QDialog {
  Q_OBJECT
 public:
  explicit MapFileDialog(Size frame, QWidget* parent = nullptr);
  [[nodiscard]] MapFileForm form() const;
  [[nodiscard]] QString ending() const;  ///< ".png"

 private:
  void refresh();

  Size frame_;
  QComboBox* format_;
  ScrubField* shortSide_;
  QLabel* size_;
};

}  // namespace hscaffold::app
