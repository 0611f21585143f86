#include "app/bench/map_file_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>

#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "core/frame/frame.h"

namespace hscaffold::app {
namespace {

enum Format { wide, narrow, exr };

}  // namespace

MapFileDialog::MapFileDialog(Size frame, QWidget* parent) : QDialog(parent), frame_(frame) {
  setWindowTitle("Export map");
  auto* rows = new QFormLayout(this);
  format_ = new QComboBox;
  format_->setObjectName("map format");
  format_->addItems({"PNG, 16 bits", "PNG, 8 bits", "OpenEXR, 32-bit floats in channel Z"});
  rows->addRow("Format", format_);
  shortSide_ = new ScrubField;
  shortSide_->setObjectName("short side");
  const int own = std::min(frame.width, frame.height);
  shortSide_->setUp(16, largestSide, 8, 0, own, "px");
  shortSide_->showValue(own);
  rows->addRow("Short side", shortSide_);
  size_ = new QLabel;
  size_->setObjectName("map size");
  size_->setProperty("role", "note");
  size_->setFont(textFont(9));
  rows->addRow(QString(), size_);
  auto* buttons = new QDialogButtonBox;
  buttons->addButton("Choose a file...", QDialogButtonBox::AcceptRole);
  buttons->addButton("Cancel", QDialogButtonBox::RejectRole);
  rows->addRow(buttons);
  connect(shortSide_, &QDoubleSpinBox::valueChanged, this, &MapFileDialog::refresh);
  connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  refresh();
}

void MapFileDialog::refresh() {
  const Size size = withShortSide(frame_, static_cast<int>(shortSide_->value()));
  size_->setText(QString("%1 x %2%3").arg(size.width).arg(size.height).arg(size == frame_ ? ", as the frame" : ""));
}

MapFileForm MapFileDialog::form() const {
  return {format_->currentIndex() == narrow, static_cast<int>(shortSide_->value())};
}

QString MapFileDialog::ending() const { return format_->currentIndex() == exr ? ".exr" : ".png"; }

}  // namespace hscaffold::app
