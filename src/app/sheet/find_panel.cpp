#include "app/sheet/find_panel.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <cmath>

#include "app/sheet/strip_panel.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"

namespace hscaffold::app {

namespace {

constexpr std::size_t mostStars = 6;

/// Proofs with a star, the newest first.
std::vector<std::int64_t> starsIn(const ProofShelf& shelf) {
  std::vector<std::int64_t> out;
  for (const ProofInfo* proof : shelf.shown())
    if (shelf.isKept(proof->number) && out.size() < mostStars) out.push_back(proof->number);
  return out;
}

}  // namespace

FindPanel::FindPanel(Desk& desk, const FindFrom& from, QWidget* parent) : QFrame(parent), desk_(desk) {
  setObjectName("find panel");
  setProperty("role", "popover");
  const ProofInfo* proof = desk_.proofs.proof(from.proof);
  base_ = proof != nullptr ? atSize(proof->recipe, desk_.document.state().frame) : recipeOf(desk_.document.state());
  base_.engine.clear();
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(8);
  auto* title = new QLabel(proof != nullptr ? QString("Find a balance from proof %1").arg(proof->number)
                                            : QString("Find a balance"));
  title->setProperty("role", "title");
  column->addWidget(title);
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  grid->setColumnStretch(0, 1);
  int at = 0;
  grid->addWidget(noteLabel("What has to hold"), at++, 0, 1, 3);
  // Who has most to say has to hold, or who is asked about; from a proof, all that it holds.
  std::string first = base_.guides.empty() ? std::string() : base_.guides.front().guide.id;
  if (guideIn(base_, from.guide) != nullptr) first = from.guide;
  for (const RecipeGuide& entry : base_.guides) {
    const QString name = QString::fromStdString(entry.guide.name);
    Row row{entry.guide.id, new QComboBox, nullptr};
    row.wish->setObjectName("wish of " + name);
    row.wish->setAccessibleName(name + ": what is wanted");
    row.wish->addItems({"free", "at least", "about", "as little as it takes"});
    double hold = 80;
    if (proof != nullptr)
      if (const auto held = hscaffold::holdOf(*proof, entry.guide.id)) hold = 5 * std::floor(*held / 5);
    row.hold = field("hold of " + name, "Points of hold, 0 to 100", limits::hold, hold);
    row.wish->setCurrentIndex(proof != nullptr || entry.guide.id == first ? 1 : 0);
    grid->addWidget(new QLabel(name), at, 0);
    grid->addWidget(row.wish, at, 1);
    grid->addWidget(row.hold, at++, 2);
    rows_.push_back(row);
  }
  look_ = new QComboBox;
  look_->setObjectName("wish of the look");
  look_->setAccessibleName("Shift: what is wanted");
  look_->addItems({"as it comes", "at least", "as far as it goes"});
  look_->setCurrentIndex(2);
  for (const std::int64_t star : starsIn(desk_.proofs))
    look_->addItem(QString("as like proof %1 as it gets").arg(star), static_cast<qlonglong>(star));
  shift_ = field("wanted shift", "Points of shift, 0 to 100", limits::hold, 40);
  grid->addWidget(new QLabel("Shift of the look"), at, 0);
  grid->addWidget(look_, at, 1);
  grid->addWidget(shift_, at++, 2);

  grid->addWidget(noteLabel("What may move"), at++, 0, 1, 3);
  const auto freedom = [&](Axis axis, bool on) {
    auto* box = new QCheckBox(QString::fromStdString(nameOf(axis, base_)));
    box->setObjectName("may move " + box->text());
    box->setToolTip(QString("From %1 to %2")
                        .arg(QString::fromStdString(valueName(axis, 0)),
                             QString::fromStdString(valueName(axis, axis.values.size() - 1))));
    box->setChecked(on);
    connect(box, &QCheckBox::toggled, this, &FindPanel::refresh);
    grid->addWidget(box, at + static_cast<int>(freedoms_.size()) / 2, freedoms_.size() % 2 == 0 ? 0 : 1, 1,
                    freedoms_.size() % 2 == 0 ? 1 : 2);
    freedoms_.push_back({box, std::move(axis)});
  };
  for (std::size_t i = 0; i < base_.guides.size(); ++i)
    for (Axis& axis : usualSettings(base_, {{base_.guides[i].guide.id}}))
      freedom(std::move(axis), base_.guides[i].guide.id == first);
  for (const StyleUse& use : base_.brief.styles) freedom(axisOver(Setting::style, use.id, 0, 1.5, 16), false);
  freedom(axisOver(Setting::guidance, "", 2, 12, 21), false);
  if (base_.brief.start.given()) freedom(axisOver(Setting::change, "", 0.1, 0.9, 17), false);
  at += static_cast<int>(freedoms_.size() + 1) / 2;

  budget_ = field("budget", "Proofs altogether; it stops sooner where nothing is to be gained any more", searchBudget,
                  searchBudget.usual);
  minutes_ = field("minutes", "Stop after so many minutes; 0: only by the number of proofs", searchMinutes,
                   searchMinutes.usual);
  seeds_ = field("seeds of a choice", "Every choice with so many seeds", searchSeeds, searchSeeds.usual);
  auto* numbers = new QHBoxLayout;
  numbers->addWidget(noteLabel("up to"));
  numbers->addWidget(budget_);
  numbers->addWidget(noteLabel("proofs, or"));
  numbers->addWidget(minutes_);
  numbers->addWidget(noteLabel("minutes"));
  numbers->addSpacing(12);
  numbers->addWidget(noteLabel("seeds"));
  numbers->addWidget(seeds_);
  numbers->addStretch(1);
  column->addLayout(grid);
  column->addLayout(numbers);
  doubt_ = noteLabel();
  doubt_->setObjectName("find doubt");
  doubt_->setWordWrap(true);
  column->addWidget(doubt_);
  auto* foot = new QHBoxLayout;
  cost_ = noteLabel();
  cost_->setObjectName("find cost");
  begin_ = new QPushButton("Find");
  begin_->setObjectName("find now");
  begin_->setProperty("role", "primary");
  foot->addWidget(cost_, 1);
  foot->addWidget(begin_);
  column->addLayout(foot);
  setFixedWidth(500);
  for (const Row& row : rows_) connect(row.wish, &QComboBox::currentIndexChanged, this, &FindPanel::refresh);
  connect(look_, &QComboBox::currentIndexChanged, this, &FindPanel::refresh);
  connect(begin_, &QPushButton::clicked, this, &FindPanel::begin);
  refresh();
  begin_->setDefault(true);
}

ScrubField* FindPanel::field(const QString& name, const QString& tip, const Limits& limits, double value) {
  auto* made = new ScrubField;
  made->setObjectName(name);
  made->setAccessibleName(name);
  made->setToolTip(tip);
  made->setUp(limits);
  made->setValue(value);
  connect(made, &QDoubleSpinBox::valueChanged, this, &FindPanel::refresh);
  return made;
}

FindPlan FindPanel::plan() const {
  FindPlan plan;
  for (const Row& row : rows_)
    if (const int wish = row.wish->currentIndex(); wish > 0)
      plan.holds.push_back({row.guide, static_cast<HoldGoal::Wish>(wish - 1), row.hold->value()});
  plan.look = {static_cast<LookGoal::Wish>(std::min(look_->currentIndex(), 3)), shift_->value(),
               look_->currentData().toLongLong()};
  for (const Freedom& freedom : freedoms_)
    if (freedom.box->isChecked()) plan.settings.push_back(freedom.axis);
  for (int i = 0; i < static_cast<int>(seeds_->value()); ++i)
    plan.seeds.push_back(base_.brief.seed + static_cast<std::uint32_t>(i));
  plan.budget = static_cast<int>(budget_->value());
  plan.minutes = minutes_->value();
  plan.base = atSize(base_, cheapSize(desk_, base_.frame));
  checkPlan(plan);
  return plan;
}

void FindPanel::refresh() {
  for (const Row& row : rows_) row.hold->setVisible(row.wish->currentIndex() == 1 || row.wish->currentIndex() == 2);
  shift_->setVisible(look_->currentIndex() == 1);
  try {
    const FindPlan plan = this->plan();
    double time = desk_.queue.estimate(plan.base) * plan.budget / desk_.queue.engineInfo()->lanes;
    if (plan.minutes > 0) time = std::min(time, plan.minutes * 60'000);
    cost_->setText(QString("up to %1 proofs of %2 x %3, %4")
                       .arg(plan.budget)
                       .arg(plan.base.frame.width)
                       .arg(plan.base.frame.height)
                       .arg(timeFor(time)));
    doubt_->clear();
    begin_->setEnabled(!desk_.document.forLooking());
  } catch (const Problem& problem) {
    cost_->clear();
    doubt_->setText(QString::fromStdString(problem.what()));
    begin_->setEnabled(false);
  }
  doubt_->setVisible(!doubt_->text().isEmpty());
  adjustSize();
}

void FindPanel::begin() {
  if (!begin_->isEnabled()) return;
  try {
    const std::int64_t sheet = desk_.finder.begin(plan());
    if (sheet == 0) return;
    desk_.document.look([&](Looking& looking) { looking.sheet = sheet; });
    emit begun(sheet);
    close();
  } catch (const Problem&) {
    refresh();
  }
}

void FindPanel::keyPressEvent(QKeyEvent* event) {
  if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && begin_->isEnabled())
    begin();
  else
    QFrame::keyPressEvent(event);
}

}  // namespace hscaffold::app
