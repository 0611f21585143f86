#include "app/bench/scan_dialog.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/scan_ways.h"
#include "app/images.h"
#include "app/theme/theme.h"
#include "core/frame/placement.h"
#include "core/image/colour.h"
#include "core/image/resample.h"

namespace hscaffold::app {
namespace {

constexpr int mostSide = 2048;  // larger than decoders look at

}  // namespace

ScanDialog::ScanDialog(Desk& desk, std::string reference, QWidget* parent)
    : QDialog(parent), desk_(desk), reference_(std::move(reference)) {
  setAttribute(Qt::WA_DeleteOnClose);
  setObjectName("scan of a picture");
  setWindowTitle("Does it scan?");
  resize(760, 300);
  const Reference* of = desk_.document.state().reference(reference_);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(18, 16, 18, 14);
  column->setSpacing(10);
  auto* row = new QHBoxLayout;
  row->setSpacing(16);
  picture_ = new QLabel;
  picture_->setFixedSize(240, 180);
  picture_->setAlignment(Qt::AlignCenter);
  row->addWidget(picture_);
  auto* words = new QVBoxLayout;
  words->setSpacing(6);
  auto* name = new QLabel(of != nullptr ? QString::fromStdString(of->name) : QString());
  name->setProperty("role", "note");
  margin_ = new QLabel("Looking for a code...");
  margin_->setObjectName("margin of a picture");
  margin_->setFont(textFont(13, QFont::DemiBold));
  says_ = new QLabel;
  says_->setObjectName("what the code says");
  says_->setWordWrap(true);
  says_->setTextFormat(Qt::PlainText);
  says_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  words->addWidget(name);
  words->addWidget(margin_);
  words->addWidget(says_);
  words->addStretch(1);
  row->addLayout(words, 1);
  column->addLayout(row);
  ways_ = new ScanWays;
  column->addWidget(ways_);
  column->addStretch(1);
  auto* foot = new QHBoxLayout;
  foot->addStretch(1);
  auto* close = new QPushButton("Close");
  close->setToolTip("Back to the bench (Esc)");
  connect(close, &QPushButton::clicked, this, &QDialog::close);
  foot->addWidget(close);
  column->addLayout(foot);
  connect(&desk_.maps, &MapRoom::picturesChanged, this, &ScanDialog::look);
  connect(&desk_.document, &StudyDocument::closing, this, &QDialog::close);
  look();
}

std::string ScanDialog::taskKey() const {
  return "scan in window " + std::to_string(reinterpret_cast<std::uintptr_t>(this));
}

ScanDialog::~ScanDialog() { desk_.tasks.stop(taskKey()); }

void ScanDialog::look() {
  const Reference* of = desk_.document.state().reference(reference_);
  if (looking_ || of == nullptr) return;
  const auto pictures = desk_.maps.pictures();
  const auto found = pictures.find(of->source());
  if (found == pictures.end() || !found->second) return;  // still being decoded
  looking_ = true;
  const QImage shown = desk_.maps.referenceImage(reference_);
  if (!shown.isNull())
    picture_->setPixmap(
        QPixmap::fromImage(shown.scaled(picture_->size(), Qt::KeepAspectRatio, Qt::SmoothTransformation)));
  struct Found {
    std::shared_ptr<const Scan> scan;
    std::vector<QImage> looks;
  };
  desk_.tasks.run(
      this, taskKey(), Priority::facts,
      [picture = found->second](const StopToken& stop) {
        const Size whole = picture->size();
        const auto pixels =
            toSrgb8(place(picture->view(), {},
                          std::max(whole.width, whole.height) <= mostSide ? whole : within(whole, mostSide), stop)
                        .view());
        return Found{std::make_shared<const Scan>(scanned(pixels.view(), nullptr, stop)),
                     ScanWays::looksOf(pixels.view(), stop)};
      },
      [this](const Found& result) {
        known_ = result.scan;
        tellMargin(*known_, *margin_);
        says_->setText(known_->text.empty() ? QString("No QR code is read in it in any way of looking.")
                                            : QString("It says \"%1\". %2 of %3 ways of looking read it.")
                                                  .arg(QString::fromStdString(known_->text))
                                                  .arg(known_->readings())
                                                  .arg(known_->ways.size()));
        ways_->set(known_, result.looks);
      });
}

}  // namespace hscaffold::app
