#include "app/sheet/details_panel.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <cmath>

#include "app/document/study_edits.h"
#include "app/sheet/compare_table.h"
#include "app/sheet/sheet_model.h"
#include "app/sheet/trade_chart.h"
#include "app/widgets/note_label.h"
#include "core/brief/differences.h"

namespace hscaffold::app {
namespace {

constexpr int chartEvery = 120;  // milliseconds

}  // namespace

DetailsPanel::DetailsPanel(Desk& desk, SheetModel& model, QWidget* parent)
    : QFrame(parent), desk_(desk), model_(model) {
  setProperty("role", "panel");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 10, 12, 12);
  column->setSpacing(6);
  const auto head = [&](const QString& title, QLabel*& note) {
    auto* row = new QHBoxLayout;
    auto* label = new QLabel(title);
    label->setProperty("role", "title");
    note = noteLabel();
    row->addWidget(label);
    row->addStretch(1);
    row->addWidget(note);
    column->addLayout(row);
    return label;
  };
  head("Hold against shift", of_);
  chart_ = new TradeChart;
  column->addWidget(chart_, 5);
  QLabel* unused = nullptr;
  which_ = head("", unused);
  small_ = new CompareTable(desk_);
  small_->setObjectName("compare small");
  small_->setFixedHeight(172);
  small_->setToolTip("Double-click to compare them large (Return)");
  column->addWidget(small_);
  differs_ = noteLabel();
  column->addWidget(differs_);
  list_ = new QTableWidget(0, 3);
  list_->setObjectName("differences");
  list_->setAccessibleName("What differs");
  list_->setProperty("role", "plain");
  list_->setFont(textFont(9));
  list_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  list_->setSelectionMode(QAbstractItemView::NoSelection);
  list_->setFocusPolicy(Qt::NoFocus);
  list_->setShowGrid(false);
  list_->setFrameShape(QFrame::NoFrame);
  list_->horizontalHeader()->hide();
  list_->verticalHeader()->hide();
  list_->verticalHeader()->setDefaultSectionSize(24);
  list_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  for (const int c : {1, 2}) list_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setMinimumHeight(60);
  column->addWidget(list_, 3);
  lost_ = new QLabel;
  lost_->setObjectName("lost");
  lost_->setFont(textFont(9));
  lost_->setWordWrap(true);
  lost_->setToolTip("Where most of the guides' layout is not in the proof. M steps through these places");
  column->addWidget(lost_);
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  const auto button = [&](const QString& text, const char* name, const QString& tip, auto&& run) {
    auto* made = new QPushButton(text);
    made->setObjectName(name);
    made->setToolTip(tip);
    made->setProperty("role", "tight");
    connect(made, &QPushButton::clicked, this, run);
    row->addWidget(made);
    return made;
  };
  adopt_ = button("Adopt settings", "adopt from sheet", "Bring back everything this proof was made with (Ctrl+Shift+A)",
                  &DetailsPanel::adopt);
  adopt_->setProperty("role", "primary");
  adopt_->setProperty("tight", true);
  adopt_->setMinimumWidth(112);
  start_ =
      button("Start picture", "start from sheet", "Start the next pulls from this proof", &DetailsPanel::startFrom);
  reference_ =
      button("Reference", "reference from sheet", "Bring this proof in as a reference", &DetailsPanel::useAsReference);
  large_ = button("Full size", "large from sheet", "Pull it again at the frame's size, with the same seed (L)",
                  &DetailsPanel::pullLarge);
  column->addLayout(row);

  connect(chart_, &TradeChart::picked, this, &DetailsPanel::picked);
  connect(small_, &CompareTable::closeAsked, this, &DetailsPanel::openAsked);
  // A chart takes longer to lay out than all the rest: not anew for each proof that comes in.
  fillLater_.setSingleShot(true);
  fillLater_.setInterval(chartEvery);
  connect(&fillLater_, &QTimer::timeout, this, &DetailsPanel::fillChart);
  connect(&model_, &SheetModel::shownChanged, this, [this] {
    if (!fillLater_.isActive()) fillLater_.start();
  });
  connect(&desk_.proofs, &ProofShelf::missesChanged, this, &DetailsPanel::tellMisses);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.settings()) tellDifferences();
  });
  fillChart();
  refresh();
}

TradeChart& DetailsPanel::chart() {
  if (fillLater_.isActive()) {
    fillLater_.stop();
    fillChart();
  }
  return *chart_;
}

void DetailsPanel::fillChart() {
  small_->setHoldOf(model_.guideLookedAt());
  std::vector<TradePoint> points;
  for (const ProofInfo* proof : model_.proofs())
    if (const auto hold = model_.hold(*proof); hold && proof->shift)
      points.push_back({proof->number, *hold, *proof->shift});
  of_->setText(points.empty()              ? QString("nothing measured yet")
               : model_.sheet() != nullptr ? QString("this sheet")
                                           : QString("%1 proofs").arg(points.size()));
  chart_->setPoints(std::move(points));
}

void DetailsPanel::setProofs(const std::vector<std::int64_t>& numbers) {
  if (numbers == numbers_) return;
  numbers_ = numbers;
  refresh();
}

void DetailsPanel::refresh() {
  chart_->setSelected(numbers_);
  small_->setProofs(numbers_);
  const bool one = !numbers_.empty();
  for (QPushButton* button : {adopt_, start_, reference_, large_}) button->setEnabled(one);
  if (numbers_.size() > 1)
    which_->setText(QString("Compared: proof %1 with %2%3")
                        .arg(numbers_[0])
                        .arg(numbers_[1])
                        .arg(numbers_.size() > 2 ? QString(" and %1 more").arg(numbers_.size() - 2) : QString()));
  else
    which_->setText(one ? QString("Proof %1").arg(numbers_[0]) : QString("No proof chosen"));
  tellDifferences();
  lostPlaces_.clear();
  nextLost_ = 0;
  tellMisses();
}

void DetailsPanel::tellDifferences() {
  const ProofInfo* first = numbers_.empty() ? nullptr : desk_.proofs.proof(numbers_[0]);
  const ProofInfo* second = numbers_.size() < 2 ? nullptr : desk_.proofs.proof(numbers_[1]);
  if (first == nullptr) {
    differs_->setText("Choose a proof; with Ctrl or Shift several, to compare them.");
    list_->setRowCount(0);
    return;
  }
  Recipe mine = first->recipe, other;
  std::vector<Difference> all;
  if (second != nullptr) {
    other = second->recipe;
  } else {
    other = recipeOf(desk_.document.state());
    other.engine = mine.engine;
    if (!desk_.document.state().brief.seedLocked) other.brief.seed = mine.brief.seed;
    // A small proof is the same proof, only small: what is counted in pixels differs for no other reason.
    if (mine.frame != other.frame) {
      const auto size = [](Size frame) { return QString("%1 x %2").arg(frame.width).arg(frame.height).toStdString(); };
      all.push_back({"Frame", size(mine.frame), size(other.frame)});
      mine = atSize(std::move(mine), other.frame);
    }
  }
  for (Difference& difference : differences(mine, other)) all.push_back(std::move(difference));
  const QString between = second != nullptr ? QString("What differs between the two")
                                            : QString("What differs: this proof, and the settings now");
  differs_->setText(all.empty() ? between + ": nothing" : between);
  list_->setRowCount(static_cast<int>(all.size()));
  for (int i = 0; i < static_cast<int>(all.size()); ++i) {
    const Difference& d = all[static_cast<std::size_t>(i)];
    const std::string* words[] = {&d.what, &d.first, &d.second};
    for (int c = 0; c < 3; ++c) {
      auto* item = new QTableWidgetItem(QString::fromStdString(*words[c]));
      item->setToolTip(item->text());
      if (c > 0) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      if (c == 1) item->setForeground(theme().accent);
      list_->setItem(i, c, item);
    }
  }
}

void DetailsPanel::showEvent(QShowEvent* event) {
  QFrame::showEvent(event);
  tellMisses();
}

/// Looked for only where it is seen.
void DetailsPanel::tellMisses() {
  if (!isVisible()) return;
  const ProofInfo* proof = numbers_.empty() ? nullptr : desk_.proofs.proof(numbers_[0]);
  lost_->setVisible(proof != nullptr && !proof->holds.empty());
  if (proof == nullptr) return;
  lostPlaces_.clear();
  QStringList words, means;
  bool known = false;
  for (const RecipeGuide& entry : proof->recipe.guides) {
    const auto places = desk_.proofs.missedPlaces(proof->number, entry.guide.id);
    if (!places) continue;
    known = true;
    QStringList names;
    for (const MissedPlace& place : *places) {
      names << QString::fromStdString(place.name);
      lostPlaces_.push_back(place);
    }
    names.removeDuplicates();
    if (const QString by = desk_.proofs.holdMeans(proof->number, entry.guide.id); !by.isEmpty())
      means << QString("%1: measured by %2").arg(QString::fromStdString(entry.guide.name), by);
    if (!names.isEmpty()) words << QString("%1 (%2)").arg(QString::fromStdString(entry.guide.name), names.join(", "));
  }
  lost_->setText(!known            ? QString("Most lost: looking...")
                 : words.isEmpty() ? QString("Most lost: nothing that stands out")
                                   : "Most lost: " + words.join("; "));
  if (known && !means.isEmpty()) lost_->setText(lost_->text() + ". " + means.join(". ") + ".");
}

std::optional<MissedPlace> DetailsPanel::nextMiss() {
  if (lostPlaces_.empty()) return {};
  return lostPlaces_[nextLost_++ % lostPlaces_.size()];
}

void DetailsPanel::adopt() {
  if (!numbers_.empty()) adoptProofOf(desk_, numbers_[0]);
}

void DetailsPanel::startFrom() {
  if (!numbers_.empty()) startFromProof(desk_.document, numbers_[0]);
}

void DetailsPanel::useAsReference() {
  if (numbers_.empty()) return;
  bringInProof(desk_, numbers_[0]);
}

void DetailsPanel::pullLarge() {
  const ProofInfo* proof = numbers_.empty() ? nullptr : desk_.proofs.proof(numbers_[0]);
  if (proof == nullptr) return;
  const Size frame = desk_.document.state().frame;
  if (proof->recipe.frame == frame) {
    emit desk_.notice(QString("Proof %1 has the frame's size already.").arg(proof->number));
    return;
  }
  Recipe recipe = atSize(proof->recipe, frame);
  recipe.engine.clear();
  desk_.queue.pull(std::move(recipe));
}

void DetailsPanel::turnStar() {
  if (!numbers_.empty()) turnStars(desk_.document, numbers_);
}

void DetailsPanel::putAway() { putProofsAway(desk_.document, numbers_); }

}  // namespace hscaffold::app
