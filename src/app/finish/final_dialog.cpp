#include "app/finish/final_dialog.h"

#include <QCheckBox>
#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/frame/frame.h"

namespace hscaffold::app {
namespace {

constexpr std::array<double, 4> offered = {1.5, 2, 3, 4};

/// Of the ratio, nearest to this width.
Size sizeFor(Size base, int width, int step) {
  const auto sizes = sizesByWidth(ratioOf(base), width, step, 1);
  return sizes.empty() ? onStep({width, width * base.height / std::max(1, base.width)}, step) : sizes.front().size;
}

QString timeText(double milliseconds) {
  if (milliseconds < 90'000) return QString("%1 s").arg(std::max(1.0, std::round(milliseconds / 1000)), 0, 'f', 0);
  return QString("%1 min").arg(milliseconds / 60'000, 0, 'f', 0);
}

}  // namespace

FinalDialog::FinalDialog(Desk& desk, std::int64_t proof, std::string from, QWidget* parent)
    : QDialog(parent), desk_(desk), proof_(proof), from_(std::move(from)) {
  setWindowTitle("Make it large");
  setObjectName("final dialog");
  if (const ProofInfo* info = desk_.proofs.proof(proof_)) base_ = info->recipe.mapsSize();
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(18, 16, 18, 14);
  column->setSpacing(10);
  auto* head = new QHBoxLayout;
  head->setSpacing(14);
  picture_ = new QLabel;
  picture_->setFixedSize(192, 132);
  picture_->setAlignment(Qt::AlignCenter);
  head->addWidget(picture_);
  auto* about = new QVBoxLayout;
  auto* title = new QLabel(QString("Proof %1, large").arg(proof_));
  title->setFont(textFont(12, QFont::DemiBold));
  about->addWidget(title);
  auto* note = noteLabel(
      "The same guides and words at the larger size, begun with the proof itself. Where the engine does not make so "
      "much at once, it is made in parts that are joined.");
  note->setWordWrap(true);
  about->addWidget(note);
  about->addStretch(1);
  head->addLayout(about, 1);
  column->addLayout(head);

  auto* sizes = new QHBoxLayout;
  sizes->setSpacing(6);
  for (const double times : offered) {
    auto* button = new QPushButton(QString("%1 times").arg(times));
    button->setObjectName(QString("times %1").arg(times));
    button->setCheckable(true);
    connect(button, &QPushButton::clicked, this, [this, times] { setTimes(times); });
    times_.push_back(button);
    sizes->addWidget(button);
  }
  width_ = new ScrubField;
  width_->setObjectName("final width");
  width_->setAccessibleName("Width of the final");
  width_->setUp(limits::side.least, limits::side.most, 64, 0, 2.0 * base_.width, "px");
  width_->setValue(2.0 * base_.width);
  connect(width_, &ScrubField::edited, this, &FinalDialog::refresh);
  sizes->addSpacing(8);
  sizes->addWidget(noteLabel("or wide"));
  sizes->addWidget(width_);
  sizes->addStretch(1);
  column->addLayout(sizes);

  auto* changes = new QHBoxLayout;
  change_ = new ScrubField;
  change_->setObjectName("final change");
  change_->setAccessibleName("Change amount");
  change_->setUp(limits::finalChange);
  change_->setValue(limits::finalChange.usual);
  connect(change_, &ScrubField::edited, this, &FinalDialog::refresh);
  changes->addWidget(new QLabel("Change amount"));
  changes->addWidget(change_);
  auto* hint = noteLabel("0: the proof itself, enlarged; more: drawn anew so far");
  changes->addWidget(hint);
  changes->addStretch(1);
  column->addLayout(changes);
  alone_ = new QCheckBox("Without an engine: enlarged only, along its edges");
  alone_->setObjectName("without engine");
  connect(alone_, &QCheckBox::toggled, this, &FinalDialog::refresh);
  column->addWidget(alone_);
  along_ = new QCheckBox("The touch-ups come along");
  along_->setObjectName("touch-ups along");
  along_->setChecked(true);
  const Final* of = desk_.document.state().final(from_);
  along_->setVisible(of != nullptr && !of->touchUps.empty());
  column->addWidget(along_);

  size_ = new QLabel;
  size_->setObjectName("final size");
  size_->setFont(textFont(11, QFont::DemiBold));
  column->addWidget(size_);
  needs_ = noteLabel();
  needs_->setObjectName("final needs");
  needs_->setWordWrap(true);
  column->addWidget(needs_);
  auto* buttons = new QDialogButtonBox;
  pull_ = buttons->addButton("Pull the final", QDialogButtonBox::AcceptRole);
  pull_->setObjectName("pull final");
  pull_->setProperty("role", "primary");
  buttons->addButton("Cancel", QDialogButtonBox::RejectRole);
  connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  column->addWidget(buttons);
  setFixedWidth(560);
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, &FinalDialog::refresh);
  refresh();
}

void FinalDialog::setTimes(double times) {
  width_->setValue(std::min(limits::side.most, std::round(base_.width * times)));
  refresh();
}

FinalWish FinalDialog::wish() const {
  FinalWish wish;
  wish.proof = proof_;
  const auto engine = desk_.queue.engineInfo();
  wish.size = sizeFor(base_, static_cast<int>(width_->value()), engine->sizeStep);
  wish.change = change_->value();
  wish.enlarged = alone_->isChecked();
  if (along_->isVisibleTo(this) && along_->isChecked()) wish.from = from_;
  return wish;
}

void FinalDialog::refresh() {
  if (const QImage image = desk_.proofs.thumbnail(proof_); !image.isNull())
    picture_->setPixmap(
        QPixmap::fromImage(image.scaled(picture_->size(), Qt::KeepAspectRatio, Qt::SmoothTransformation)));
  const FinalWish wanted = wish();
  for (std::size_t i = 0; i < times_.size(); ++i)
    times_[i]->setChecked(std::abs(width_->value() - std::round(base_.width * offered[i])) < 0.5);
  size_->setText(QString("%1 x %2, %3 megapixels")
                     .arg(wanted.size.width)
                     .arg(wanted.size.height)
                     .arg(megapixels(wanted.size), 0, 'f', 1));
  change_->setEnabled(!wanted.enlarged);
  try {
    const FinalNeeds needs = desk_.finals.needs(wanted);
    const auto engine = desk_.queue.engineInfo();
    QString parts = "in one piece";
    if (!wanted.enlarged) {
      const TilePlan tiles = tilesOf(desk_.finals.planOf(wanted), *engine);
      if (tiles.count() > 1)
        parts = QString("in %1 parts (%2 x %3)").arg(tiles.count()).arg(tiles.columns).arg(tiles.rows);
      parts += " by " + QString::fromStdString(engine->title);
    }
    needs_->setText(QString("About %1 here, %2; up to %3 GB of memory.")
                        .arg(timeText(needs.milliseconds), parts)
                        .arg(std::max(0.1, static_cast<double>(needs.bytes) / 1e9), 0, 'f', 1));
    pull_->setEnabled(true);
  } catch (const Problem& problem) {
    needs_->setText(QString::fromStdString(problem.what()));
    pull_->setEnabled(false);
  }
}

}  // namespace hscaffold::app
