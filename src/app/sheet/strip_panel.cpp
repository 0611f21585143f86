#include "app/sheet/strip_panel.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <cmath>
#include <random>

#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/study/pull_sets.h"

namespace hscaffold::app {
namespace {

/// More than that is asked about once.
constexpr int manyCells = 100;

QString valuesText(const Axis& axis) {
  const int decimals = infoOf(axis.setting).values.decimals;
  const auto word = [&](double value) { return QString::number(value, 'f', decimals); };
  const std::size_t count = axis.values.size();
  if (count > 2) {
    // Evenly spaced ones are said shortly.
    const auto even = axisOver(axis.setting, axis.of, axis.values.front(), axis.values.back(), static_cast<int>(count));
    if (even.values == axis.values)
      return QString("%1..%2/%3").arg(word(axis.values.front()), word(axis.values.back())).arg(count);
  }
  QStringList words;
  for (const double value : axis.values) words << word(value);
  return words.join(", ");
}

/// A line that stands for nothing to be avoided.
const QString nothingAvoided = "-";

/// Wordings, one a line.
QString linesOf(const Axis& axis) {
  QStringList lines;
  for (const std::string& prompt : axis.prompts)
    if (const QString line = prompt.empty() ? nothingAvoided : QString::fromStdString(prompt); !lines.contains(line))
      lines << line;
  return lines.join('\n');
}

}  // namespace

Size cheapSize(const Desk& desk, Size frame) {
  const int longest = desk.document.state().longest;
  return smallSize(frame, longest > 0 ? longest : usualRough, desk.queue.engineInfo()->sizeStep);
}

QString timeFor(double milliseconds) {
  const double seconds = milliseconds / 1000;
  return seconds < 90 ? QString("about %1 s").arg(std::ceil(seconds))
                      : QString("about %1 min").arg(std::round(seconds / 60));
}

Axis usualValues(const Recipe& base, Setting setting, const std::string& of) {
  switch (setting) {
    case Setting::weight:
      return axisOver(setting, of, 0.2, 1.2, 6);
    case Setting::start:
      return axisOver(setting, of, 0, 60, 5);
    case Setting::end:
      return {setting, of, {15, 30, 45, 60, 100}, {}};
    case Setting::place:
      return axisOver(setting, of, 0, 60, 4);
    case Setting::ramp:
      return axisOver(setting, of, 0, 40, 3);
    case Setting::on:
      return {setting, of, {0, 1}, {}};
    case Setting::style:
      return axisOver(setting, of, 0, 1.5, 6);
    case Setting::guidance:
      return axisOver(setting, of, 2, 12, 6);
    case Setting::steps:
      return {setting, of, {8, 12, 20, 32}, {}};
    case Setting::change:
      return axisOver(setting, of, 0.2, 0.9, 6);
    case Setting::vary:
      return axisOver(setting, of, 0, 0.5, 6);
    case Setting::seed:
      return axisOver(setting, of, base.brief.seed, static_cast<double>(base.brief.seed) + 5, 6);
    case Setting::avoid:
      return {setting, of, {}, {base.brief.avoid, ""}};
    case Setting::prompt:
      break;
  }
  return {setting, of, {}, {base.brief.prompt}};
}

StripPanel::StripPanel(Desk& desk, const std::optional<Axis>& over, QWidget* parent) : QFrame(parent), desk_(desk) {
  setObjectName("strip panel");
  setProperty("role", "popover");
  base_ = recipeOf(desk_.document.state());
  for (const RecipeGuide& entry : base_.guides)
    for (const Setting setting :
         {Setting::weight, Setting::end, Setting::start, Setting::place, Setting::ramp, Setting::on})
      choices_.push_back({setting, entry.guide.id, {}, {}});
  for (const StyleUse& use : base_.brief.styles) choices_.push_back({Setting::style, use.id, {}, {}});
  for (const Setting setting :
       {Setting::guidance, Setting::steps, Setting::vary, Setting::seed, Setting::prompt, Setting::avoid})
    choices_.push_back({setting, "", {}, {}});
  if (base_.brief.start.given()) choices_.push_back({Setting::change, "", {}, {}});

  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(8);
  auto* title = new QLabel("Pull a sheet");
  title->setProperty("role", "title");
  column->addWidget(title);
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  grid->setColumnMinimumWidth(1, 200);
  grid->setColumnMinimumWidth(2, 170);
  across_ = addRow(*grid, 0, "Across", "across");
  down_ = addRow(*grid, 2, "Down", "down");
  seeds_ = new ScrubField;
  seeds_->setObjectName("seeds");
  seeds_->setAccessibleName("Seeds");
  seeds_->setUp(1, 64, 1, 0, 1);
  seeds_->setToolTip("Every setting with so many seeds: how far seeds differ says what a difference is worth");
  random_ = new QCheckBox("any seeds");
  random_->setObjectName("any seeds");
  random_->setToolTip("Thrown anew; otherwise they count on from the brief's seed");
  auto* seedRow = new QHBoxLayout;
  seedRow->setSpacing(10);
  seedRow->addWidget(seeds_);
  seedRow->addWidget(random_);
  seedRow->addStretch(1);
  grid->addWidget(noteLabel("Seeds"), 4, 0);
  grid->addLayout(seedRow, 4, 1, 1, 2);
  small_ = new QCheckBox;
  small_->setObjectName("small");
  const Size cheap = cheapSize(desk_, base_.frame);
  small_->setText(QString("small: %1 x %2").arg(cheap.width).arg(cheap.height));
  small_->setToolTip("For a cheap look, at the frame's ratio; each can be pulled at full size later");
  small_->setEnabled(cheap != base_.frame);
  small_->setChecked(cheap != base_.frame);
  grid->addWidget(noteLabel("Size"), 5, 0);
  grid->addWidget(small_, 5, 1, 1, 2);
  trial_ = new QCheckBox("and one of them at full size");
  trial_->setObjectName("size trial");
  trial_->setToolTip(
      "It is not known yet what small proofs of this engine say about large ones: one is pulled at both sizes, once");
  trial_->setChecked(true);
  trial_->setVisible(desk_.sizeTrials.wanted() && cheap != base_.frame);
  grid->addWidget(trial_, 6, 1, 1, 2);
  shared_ = new QCheckBox;
  shared_->setObjectName("shared");
  QStringList others;
  for (const std::string& name : desk_.queue.sharers())
    others << QString::fromStdString(desk_.engines.info(name)->title);
  shared_->setText("shared with " + others.join(", "));
  shared_->setToolTip("Engines that make the same pictures; each takes as many as it makes in the time");
  shared_->setChecked(!others.isEmpty());
  shared_->setVisible(!others.isEmpty());
  grid->addWidget(shared_, 7, 1, 1, 2);
  column->addLayout(grid);
  doubt_ = noteLabel();
  doubt_->setObjectName("doubt");
  doubt_->setWordWrap(true);
  column->addWidget(doubt_);
  auto* foot = new QHBoxLayout;
  cost_ = noteLabel();
  cost_->setObjectName("cost");
  pull_ = new QPushButton("Pull sheet");
  pull_->setObjectName("pull sheet now");
  pull_->setProperty("role", "primary");
  foot->addWidget(cost_, 1);
  foot->addWidget(pull_);
  column->addLayout(foot);
  setFixedWidth(500);

  fill(across_, over);
  fill(down_, {});
  if (!over) seeds_->setValue(9);
  for (Row* row : {&across_, &down_}) {
    connect(row->setting, &QComboBox::currentIndexChanged, this, [this, row](int index) {
      if (index > 0) {
        const Axis& choice = choices_[static_cast<std::size_t>(index) - 1];
        const Axis usual = usualValues(base_, choice.setting, choice.of);
        row->values->setText(valuesText(usual));
        if (!usual.prompts.empty()) row->prompts->setPlainText(linesOf(usual));
        if (row == &across_ && seeds_->value() == 9) seeds_->setValue(1);
      }
      refresh();
    });
    connect(row->values, &QLineEdit::textChanged, this, &StripPanel::refresh);
    connect(row->prompts, &QPlainTextEdit::textChanged, this, &StripPanel::refresh);
  }
  connect(seeds_, &QDoubleSpinBox::valueChanged, this, &StripPanel::refresh);
  connect(random_, &QCheckBox::toggled, this, &StripPanel::refresh);
  connect(small_, &QCheckBox::toggled, this, &StripPanel::refresh);
  connect(shared_, &QCheckBox::toggled, this, &StripPanel::refresh);
  connect(pull_, &QPushButton::clicked, this, &StripPanel::pull);
  refresh();
  pull_->setDefault(true);
}

StripPanel::Row StripPanel::addRow(QGridLayout& grid, int at, const QString& name, const char* objectName) {
  Row row{};
  row.setting = new QComboBox;
  row.setting->setObjectName(objectName);
  row.setting->setAccessibleName(name + ": which setting");
  row.setting->addItem("nothing");
  for (const Axis& choice : choices_) row.setting->addItem(QString::fromStdString(nameOf(choice, base_)));
  row.values = new QLineEdit;
  row.values->setObjectName(QString("%1 values").arg(objectName));
  row.values->setAccessibleName(name + ": values");
  row.values->setToolTip("From..to/how many, or one by one: 0.2..1.2/6 or 0.2, 0.5, 1");
  row.prompts = new QPlainTextEdit;
  row.prompts->setObjectName(QString("%1 prompts").arg(objectName));
  row.prompts->setAccessibleName(name + ": one wording a line");
  row.prompts->setPlaceholderText("One a line; - for nothing");
  row.prompts->setFixedHeight(64);
  row.prompts->setTabChangesFocus(true);
  row.shown = noteLabel();
  row.shown->setObjectName(QString("%1 shown").arg(objectName));
  grid.addWidget(noteLabel(name), at, 0);
  grid.addWidget(row.setting, at, 1);
  grid.addWidget(row.values, at, 2);
  grid.addWidget(row.prompts, at + 1, 1, 1, 2);
  grid.addWidget(row.shown, at + 1, 1, 1, 2);
  return row;
}

void StripPanel::fill(Row& row, const std::optional<Axis>& axis) {
  if (!axis) return;
  for (std::size_t i = 0; i < choices_.size(); ++i) {
    if (choices_[i].setting != axis->setting || choices_[i].of != axis->of) continue;
    const QSignalBlocker quiet(row.setting);
    row.setting->setCurrentIndex(static_cast<int>(i) + 1);
    const Axis values = axis->count() > 0 ? *axis : usualValues(base_, axis->setting, axis->of);
    row.values->setText(valuesText(values));
    row.prompts->setPlainText(linesOf(values));
  }
}

std::optional<Axis> StripPanel::axisOf(const Row& row) const {
  const int index = row.setting->currentIndex();
  if (index <= 0) return {};
  const Axis& choice = choices_[static_cast<std::size_t>(index) - 1];
  if (isWording(choice.setting)) {
    Axis axis = choice;
    for (const QString& line : row.prompts->toPlainText().split('\n', Qt::SkipEmptyParts))
      if (!line.trimmed().isEmpty())
        axis.prompts.push_back(choice.setting == Setting::avoid && line.trimmed() == nothingAvoided
                                   ? std::string()
                                   : line.trimmed().toStdString());
    if (axis.prompts.empty()) throw badInput("Write what it goes through, one a line.");
    for (const std::string& prompt : axis.prompts)
      if (charactersIn(prompt) > longestPrompt) throw badInput("One of the lines is too long.");
    return axis;
  }
  const std::string head = infoOf(choice.setting).id + (choice.of.empty() ? std::string() : ":" + choice.of);
  const QString typed = row.values->text().trimmed();
  try {
    return axisFromText(head + "=" + typed.toStdString(), base_);
  } catch (const Problem&) {
    const SettingInfo& info = infoOf(choice.setting);
    throw badInput(QString("Values of %1 go from %2 to %3, like %4.")
                       .arg(info.name)
                       .arg(info.values.least)
                       .arg(info.values.most)
                       .arg(valuesText(usualValues(base_, choice.setting, choice.of)))
                       .toStdString());
  }
}

SheetPlan StripPanel::plan() const {
  SheetPlan plan;
  plan.base = base_;
  if (small_->isChecked()) plan.base = atSize(plan.base, cheapSize(desk_, base_.frame));
  if (shared_->isChecked()) plan.engines = desk_.queue.sharers();
  for (const Row* row : {&across_, &down_})
    if (auto axis = axisOf(*row)) plan.axes.push_back(std::move(*axis));
  std::mt19937 dice(std::random_device{}());
  for (int i = 0; i < static_cast<int>(seeds_->value()); ++i)
    plan.seeds.push_back(random_->isChecked() ? static_cast<std::uint32_t>(dice())
                                              : base_.brief.seed + static_cast<std::uint32_t>(i));
  checkPlan(plan);
  return plan;
}

void StripPanel::refresh() {
  for (Row* row : {&across_, &down_}) {
    const int index = row->setting->currentIndex();
    const bool prompts = index > 0 && isWording(choices_[static_cast<std::size_t>(index) - 1].setting);
    row->values->setVisible(index > 0 && !prompts);
    row->prompts->setVisible(prompts);
    row->shown->setVisible(index > 0 && !prompts);
    try {
      QStringList words;
      if (const auto axis = axisOf(*row); axis && !prompts)
        for (std::size_t i = 0; i < std::min<std::size_t>(axis->count(), 9); ++i)
          words << QString::fromStdString(valueName(*axis, i));
      row->shown->setText(words.join("   ") + (words.size() == 9 ? " ..." : ""));
    } catch (const Problem&) {
      row->shown->clear();
    }
  }
  manyAreMeant_ = false;
  pull_->setText("Pull sheet");
  try {
    const SheetPlan plan = this->plan();
    const int cells = plan.cells();
    cost_->setText(
        QString("%1 proof%2, %3").arg(cells).arg(cells == 1 ? "" : "s").arg(timeFor(desk_.queue.estimate(plan))));
    const auto repeated = cells <= 400 ? repeatedCells(plan) : std::vector<int>();
    doubt_->setText(repeated.empty() ? QString()
                                     : QString("%1 of them come%2 to the same picture as another: the steps they cover "
                                               "are the same.")
                                           .arg(repeated.size())
                                           .arg(repeated.size() == 1 ? "s" : ""));
    pull_->setEnabled(!desk_.document.forLooking());
  } catch (const Problem& problem) {
    cost_->clear();
    doubt_->setText(QString::fromStdString(problem.what()));
    pull_->setEnabled(false);
  }
  doubt_->setVisible(!doubt_->text().isEmpty());
  adjustSize();
}

void StripPanel::pull() {
  if (!pull_->isEnabled()) return;
  try {
    const SheetPlan plan = this->plan();
    // Asked in its own place: another window would close this one, and what was typed with it.
    if (plan.cells() > manyCells && !manyAreMeant_) {
      manyAreMeant_ = true;
      pull_->setText(QString("Pull all %1").arg(plan.cells()));
      doubt_->setText(QString("That is %1 proofs, %2. Press once more to pull them all, or take fewer.")
                          .arg(plan.cells())
                          .arg(timeFor(desk_.queue.estimate(plan))));
      doubt_->show();
      adjustSize();
      return;
    }
    const std::int64_t sheet = desk_.queue.pullSheet(plan);
    if (sheet == 0) return;
    if (small_->isChecked() && trial_->isChecked() && desk_.sizeTrials.wanted()) desk_.sizeTrials.begin(sheet);
    desk_.document.look([&](Looking& looking) { looking.sheet = sheet; });
    emit pulled(sheet);
    close();
  } catch (const Problem&) {
    refresh();
  }
}

void StripPanel::keyPressEvent(QKeyEvent* event) {
  // Return in any field of one line pulls.
  if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && pull_->isEnabled())
    pull();
  else
    QFrame::keyPressEvent(event);
}

}  // namespace hscaffold::app
