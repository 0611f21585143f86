#include "app/bench/frame_panel.h"

#include <QAbstractItemView>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <cmath>

#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"

namespace hscaffold::app {

FramePanel::FramePanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  setProperty("role", "popover");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(8);
  auto* title = new QLabel("Frame");
  title->setProperty("role", "title");
  now_ = new QLabel;
  now_->setProperty("role", "note");
  auto* head = new QHBoxLayout;
  head->addWidget(title);
  head->addStretch(1);
  head->addWidget(now_);
  column->addLayout(head);

  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  const auto field = [&](const QString& name, int row, int columnIndex, double low, double high, double step,
                         int decimals, double reset, const QString& unit) {
    auto* label = new QLabel(name);
    label->setProperty("role", "note");
    auto* scrub = new ScrubField;
    scrub->setUp(low, high, step, decimals, reset, unit);
    scrub->setAccessibleName(name);
    scrub->setObjectName(name.toLower());
    scrub->setFixedWidth(92);
    grid->addWidget(label, row, columnIndex);
    grid->addWidget(scrub, row, columnIndex + 1);
    return scrub;
  };
  width_ = field("Width", 0, 0, smallestSide, largestSide, 8, 0, 768, "px");
  height_ = field("Height", 0, 2, smallestSide, largestSide, 8, 0, 512, "px");
  megapixels_ = field("Megapixels", 1, 0, 0.01, 32, 0.05, 2, 0.4, "");
  scale_ = field("Scale", 1, 2, 10, 800, 10, 0, 100, "%");
  step_ = field("Size step", 2, 0, 1, 256, 8, 0, 8, "px");
  step_->setToolTip("Sides are multiples of this; the built-in stand-in wants 8");
  auto* ratioLabel = new QLabel("Ratio");
  ratioLabel->setProperty("role", "note");
  ratios_ = new QComboBox;
  ratios_->setAccessibleName("Common ratios");
  ratios_->setFixedWidth(92);
  grid->addWidget(ratioLabel, 2, 2);
  grid->addWidget(ratios_, 2, 3);
  column->addLayout(grid);

  auto* row = new QHBoxLayout;
  locked_ = new QPushButton("Lock ratio");
  locked_->setCheckable(true);
  locked_->setChecked(true);
  setIcon(*locked_, "lock");
  auto* swap = new QPushButton("Swap sides");
  swap->setObjectName("swap sides");
  connect(swap, &QPushButton::clicked, this,
          [this] { apply(swapped(desk_.document.state().frame), "Swap sides of the frame"); });
  row->addWidget(locked_);
  row->addStretch(1);
  auto* fromReference = new QPushButton("Ratio of reference");
  connect(fromReference, &QPushButton::clicked, this, [this] {
    const auto& state = desk_.document.state();
    if (const Reference* reference = state.selectedReference())
      offer(sizesByMegapixels(ratioOf(reference->size), megapixels(state.frame), state.sizeStep));
  });
  row->addWidget(fromReference);
  row->addWidget(swap);
  column->addLayout(row);
  auto* offersHead = new QLabel("Sizes on the step that keep the ratio within 1 %");
  offersHead->setProperty("role", "note");
  column->addWidget(offersHead);
  offers_ = new QVBoxLayout;
  offers_->setSpacing(4);
  column->addLayout(offers_);

  // While typing, fitting sizes are offered; one of them is taken by a click or by leaving the field.
  const auto byWidth = [this] {
    const auto& s = desk_.document.state();
    const int wanted = static_cast<int>(width_->value());
    if (!locked_->isChecked()) return apply(onStep({wanted, s.frame.height}, s.sizeStep), "Frame width");
    const auto sizes = sizesByWidth(ratioOf(s.frame), wanted, s.sizeStep);
    if (!sizes.empty()) apply(sizes.front().size, "Frame width");
    offer(sizes);
  };
  const auto byHeight = [this] {
    const auto& s = desk_.document.state();
    const int wanted = static_cast<int>(height_->value());
    if (!locked_->isChecked()) return apply(onStep({s.frame.width, wanted}, s.sizeStep), "Frame height");
    const auto sizes = sizesByHeight(ratioOf(s.frame), wanted, s.sizeStep);
    if (!sizes.empty()) apply(sizes.front().size, "Frame height");
    offer(sizes);
  };
  connect(width_, &ScrubField::finished, this, [this, byWidth] {
    if (static_cast<int>(width_->value()) != desk_.document.state().frame.width) byWidth();
  });
  connect(height_, &ScrubField::finished, this, [this, byHeight] {
    if (static_cast<int>(height_->value()) != desk_.document.state().frame.height) byHeight();
  });
  connect(megapixels_, &ScrubField::edited, this, [this](double value) {
    const auto& s = desk_.document.state();
    offer(sizesByMegapixels(ratioOf(s.frame), value, s.sizeStep));
  });
  connect(scale_, &ScrubField::edited, this, [this](double value) {
    const auto& s = desk_.document.state();
    offer(sizesByScale(s.frame, value / 100, s.sizeStep));
  });
  connect(step_, &ScrubField::finished, this, [this] {
    const int step = static_cast<int>(step_->value());
    desk_.document.change("Size step", [&](StudyState& s) { s.sizeStep = step; });
  });
  connect(ratios_, &QComboBox::activated, this, [this](int index) {
    const auto& s = desk_.document.state();
    if (index < 1) return;
    Ratio ratio = commonRatios()[static_cast<std::size_t>(index - 1)].ratio;
    if (s.frame.height > s.frame.width) ratio = {ratio.down, ratio.across};
    const auto sizes = sizesByMegapixels(ratio, megapixels(s.frame), s.sizeStep);
    if (!sizes.empty()) apply(sizes.front().size, "Frame ratio");
    offer(sizes);
  });
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.frame) refresh();
  });
  refresh();
  offerUsual();
}

/// Sizes that are wanted next: cheaper and finer ones of the same ratio.
void FramePanel::offerUsual() {
  const auto& state = desk_.document.state();
  std::vector<SizeOffer> usual;
  for (const double scale : {0.5, 0.75, 1.5, 2.0, 3.0})
    if (const auto found = sizesByScale(state.frame, scale, state.sizeStep, 1); !found.empty())
      usual.push_back(found.front());
  offer(usual);
}

void FramePanel::apply(Size size, const QString& name) {
  desk_.document.change(name, [&](StudyState& s) { s.frame = size; });
  refresh();
}

void FramePanel::offer(const std::vector<SizeOffer>& sizes) {
  while (QLayoutItem* item = offers_->takeAt(0)) {
    if (item->widget() != nullptr) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  for (const SizeOffer& one : sizes) {
    const QString error =
        one.ratioError < 5e-5 ? QString("exact") : QString("%1 % off").arg(one.ratioError * 100, 0, 'f', 2);
    Recipe recipe = recipeOf(desk_.document.state());
    recipe.frame = one.size;
    auto* button = new QPushButton(QString("%1 x %2    %3 MP    about %5 s    %4")
                                       .arg(one.size.width)
                                       .arg(one.size.height)
                                       .arg(megapixels(one.size), 0, 'f', 2)
                                       .arg(error)
                                       .arg(desk_.queue.estimate(recipe) / 1000, 0, 'f', 1));
    button->setObjectName(QString("offer %1 x %2").arg(one.size.width).arg(one.size.height));
    button->setProperty("role", "chip");
    connect(button, &QPushButton::clicked, this, [this, size = one.size] { apply(size, "Frame size"); });
    offers_->addWidget(button);
  }
  adjustSize();
}

void FramePanel::refresh() {
  const auto& s = desk_.document.state();
  width_->showValue(s.frame.width);
  height_->showValue(s.frame.height);
  width_->setSingleStep(s.sizeStep);
  height_->setSingleStep(s.sizeStep);
  megapixels_->showValue(std::round(megapixels(s.frame) * 100) / 100);
  scale_->showValue(100);
  step_->showValue(s.sizeStep);
  now_->setText(
      QString("%1 x %2, %3").arg(s.frame.width).arg(s.frame.height).arg(QString::fromStdString(ratioName(s.frame))));
  const QSignalBlocker quiet(ratios_);
  ratios_->clear();
  ratios_->addItem(QString::fromStdString(ratioName(s.frame)));
  for (const auto& common : commonRatios()) {
    const bool tall = s.frame.height > s.frame.width;
    const Ratio r = tall ? Ratio{common.ratio.down, common.ratio.across} : common.ratio;
    ratios_->addItem(QString("%1:%2  %3").arg(r.across).arg(r.down).arg(common.use));
  }
  ratios_->view()->setMinimumWidth(160);
}

}  // namespace hscaffold::app
