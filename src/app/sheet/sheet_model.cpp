#include "app/sheet/sheet_model.h"

#include <algorithm>
#include <cmath>

namespace hscaffold::app {

SheetModel::SheetModel(Desk& desk, QObject* parent) : QAbstractTableModel(parent), desk_(desk) {
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.others || changes.looking) refresh();
  });
  connect(&desk_.proofs, &ProofShelf::changed, this, &SheetModel::refresh);
  connect(&desk_.proofs, &ProofShelf::sheetsChanged, this, &SheetModel::refresh);
  connect(&desk_.queue, &PullQueue::changed, this, &SheetModel::refresh);
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, [this](qint64 number) {
    const QModelIndex index = indexOf(number);
    if (index.isValid()) emit dataChanged(index, index, {Qt::DecorationRole});
  });
  connect(&desk_.queue, &PullQueue::progressed, this, [this](qint64 id) {
    const auto found = std::find_if(slots_.begin(), slots_.end(), [id](const Slot& slot) { return slot.pull == id; });
    if (found == slots_.end()) return;
    const QModelIndex index = at(static_cast<std::size_t>(found - slots_.begin()));
    emit dataChanged(index, index, {progressRole, Qt::DecorationRole});
  });
  refresh();
}

const SheetInfo* SheetModel::sheet() const { return desk_.proofs.sheet(sheet_); }

bool SheetModel::placed() const { return sheet() != nullptr && !sheet()->plan.axes.empty(); }

bool SheetModel::mayWrap() const {
  return placed() && sheet()->plan.axes.size() == 1 && sheet()->plan.seeds.size() == 1;
}

std::vector<SheetModel::Slot> SheetModel::slotsNow() const {
  std::vector<Slot> out;
  if (placed()) {
    const SheetPlan& plan = sheet()->plan;
    const int seeds = static_cast<int>(plan.seeds.size());
    out.resize(static_cast<std::size_t>(plan.cells()));
    const auto slotOf = [&](int cell) -> Slot& {
      const CellPlace place = placeOf(plan, cell);
      return out[static_cast<std::size_t>((place.down * seeds + place.seed) * plan.across() + place.across)];
    };
    for (const ProofInfo* proof : desk_.proofs.shown())
      if (proof->sheet == sheet_ && proof->cell < plan.cells()) slotOf(proof->cell).proof = proof->number;
    for (const Pull& pull : desk_.queue.all())
      if (pull.sheet == sheet_) slotOf(pull.cell).pull = pull.id;
    return out;
  }
  std::vector<const ProofInfo*> list;
  for (const ProofInfo* proof : desk_.proofs.shown()) {
    if (sheet_ > 0 && proof->sheet != sheet_) continue;
    if (sheet_ == keptProofs && !desk_.proofs.isKept(proof->number)) continue;
    if (leastShift_ > 0 && proof->shift.value_or(-1) < leastShift_) continue;
    if (leastHold_ > 0 && hold(*proof).value_or(-1) < leastHold_) continue;
    list.push_back(proof);
  }
  const auto by = [&](auto&& key) {
    std::stable_sort(list.begin(), list.end(),
                     [&](const ProofInfo* a, const ProofInfo* b) { return key(*a) < key(*b); });
  };
  switch (order_) {
    case ProofOrder::newest:
      break;
    case ProofOrder::seed:
      by([](const ProofInfo& proof) { return static_cast<double>(proof.recipe.brief.seed); });
      break;
    case ProofOrder::hold:
      by([this](const ProofInfo& proof) { return -hold(proof).value_or(-1); });
      break;
    case ProofOrder::shift:
      by([](const ProofInfo& proof) { return -proof.shift.value_or(-1); });
      break;
    case ProofOrder::time:
      by([](const ProofInfo& proof) { return proof.milliseconds; });
      break;
  }
  for (const ProofInfo* proof : list) out.push_back({proof->number, 0});
  for (const Pull& pull : desk_.queue.all())
    if ((sheet_ > 0 && pull.sheet == sheet_) || (sheet_ == allProofs && pull.running)) out.push_back({0, pull.id});
  return out;
}

void SheetModel::refresh() {
  const std::int64_t now = desk_.document.state().looking.sheet;
  const bool other = now != sheet_;
  sheet_ = now > 0 && desk_.proofs.sheet(now) == nullptr ? allProofs : now;
  // A strip is about its guide; others pull beside it.
  if (other) holdOf_ = sheet() != nullptr ? guideOf(sheet()->plan) : std::string();
  wrapped_ = wrapped_ && mayWrap();
  auto wanted = slotsNow();
  const int columns = matrix() ? sheet()->plan.across() : std::max(1, wantedColumns_);
  const int rows = (static_cast<int>(wanted.size()) + columns - 1) / columns;
  if (!other && wanted == slots_ && columns == columns_) {
    // Stars and running ones may still be others.
    if (rows_ > 0) emit dataChanged(index(0, 0), index(rows_ - 1, columns_ - 1));
    return;
  }
  if (!other && columns == columns_ && rows == rows_) {
    // A proof came in where one was waited for: what is selected and where it was scrolled to stay.
    for (std::size_t i = 0; i < wanted.size(); ++i)
      if (i >= slots_.size() || !(wanted[i] == slots_[i])) {
        if (i < slots_.size())
          slots_[i] = wanted[i];
        else
          slots_.push_back(wanted[i]);
        emit dataChanged(at(i), at(i));
      }
    if (slots_.size() > wanted.size()) {
      slots_ = std::move(wanted);
      emit dataChanged(index(0, 0), index(rows_ - 1, columns_ - 1));
    }
  } else {
    beginResetModel();
    slots_ = std::move(wanted);
    columns_ = columns;
    rows_ = rows;
    endResetModel();
  }
  emit shownChanged();
}

int SheetModel::rowCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : rows_; }
int SheetModel::columnCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : columns_; }

const SheetModel::Slot* SheetModel::slotAt(const QModelIndex& index) const {
  if (!index.isValid()) return nullptr;
  const auto number = static_cast<std::size_t>(index.row() * columns_ + index.column());
  return number < slots_.size() ? &slots_[number] : nullptr;
}

QModelIndex SheetModel::at(std::size_t slot) const {
  return index(static_cast<int>(slot) / columns_, static_cast<int>(slot) % columns_);
}

QModelIndex SheetModel::indexOf(std::int64_t number) const {
  if (number <= 0) return {};
  const auto found =
      std::find_if(slots_.begin(), slots_.end(), [number](const Slot& slot) { return slot.proof == number; });
  return found != slots_.end() ? at(static_cast<std::size_t>(found - slots_.begin())) : QModelIndex();
}

std::int64_t SheetModel::numberAt(const QModelIndex& index) const {
  const Slot* slot = slotAt(index);
  return slot != nullptr ? slot->proof : 0;
}

std::vector<const ProofInfo*> SheetModel::proofs() const {
  std::vector<const ProofInfo*> out;
  for (const Slot& slot : slots_)
    if (const ProofInfo* proof = desk_.proofs.proof(slot.proof)) out.push_back(proof);
  return out;
}

std::vector<MeasuredCell> SheetModel::measured() const {
  std::vector<MeasuredCell> cells;
  for (const ProofInfo* proof : proofs())
    if (const auto holds = hold(*proof))
      // Outside a sheet, cells are proofs.
      cells.push_back(
          {sheet() != nullptr ? proof->cell : static_cast<int>(proof->number), *holds, proof->shift.value_or(0)});
  return cells;
}

Qt::ItemFlags SheetModel::flags(const QModelIndex& index) const {
  return numberAt(index) > 0 ? Qt::ItemIsEnabled | Qt::ItemIsSelectable : Qt::ItemIsEnabled;
}

QVariant SheetModel::data(const QModelIndex& index, int role) const {
  const Slot* slot = slotAt(index);
  if (slot == nullptr) return {};
  const Pull* pull = slot->pull > 0 && slot->proof == 0 ? desk_.queue.find(slot->pull) : nullptr;
  const ProofInfo* proof = desk_.proofs.proof(slot->proof);
  if (role == numberRole) return static_cast<qint64>(slot->proof);
  if (role == pullRole) return static_cast<qint64>(pull != nullptr ? pull->id : 0);
  if (pull != nullptr) {
    if (role == Qt::DecorationRole) return pull->preview;
    if (role == progressRole && pull->running) return static_cast<double>(pull->step) / std::max(1, pull->steps);
    if (role == emptyRole) return pull->running ? QString("step %1 of %2").arg(pull->step).arg(pull->steps) : "waiting";
  }
  if (proof == nullptr) {
    if (role == captionRole && (pull != nullptr || wrapped_))
      return caption(pull != nullptr ? pull->cell : index.row() * columns_ + index.column());
    return role == emptyRole ? QVariant("not pulled") : QVariant();
  }
  switch (role) {
    case Qt::DecorationRole:
      return desk_.proofs.thumbnail(slot->proof);
    case holdRole: {
      const auto holds = hold(*proof);
      return holds ? QVariant(*holds) : QVariant();
    }
    case shiftRole:
      return proof->shift ? QVariant(*proof->shift) : QVariant();
    case keptRole:
      return desk_.proofs.isKept(slot->proof);
    case captionRole:
      return caption(proof->cell);
    case Qt::AccessibleTextRole:
    case Qt::ToolTipRole: {
      QString tip = QString("Proof %1: ").arg(proof->number);
      tip += sheet() != nullptr ? QString::fromStdString(cellName(sheet()->plan, proof->cell))
                                : QString("seed %1").arg(proof->recipe.brief.seed);
      if (const auto holds = hold(*proof)) tip += QString("\nhold %1").arg(std::lround(*holds));
      if (proof->shift) tip += QString(", shift %1").arg(std::lround(*proof->shift));
      return tip + QString("\n%1 x %2, %3 s")
                       .arg(proof->recipe.frame.width)
                       .arg(proof->recipe.frame.height)
                       .arg(proof->milliseconds / 1000, 0, 'f', 1);
    }
    default:
      return {};
  }
}

QString SheetModel::caption(int cell) const {
  if (sheet() == nullptr || matrix() || cell < 0 || cell >= sheet()->plan.cells()) return {};
  const SheetPlan& plan = sheet()->plan;
  if (wrapped_) return QString::fromStdString(valueName(plan.axes[0], static_cast<std::size_t>(cell)));
  if (!plan.search) return QString::fromStdString(cellName(plan, cell));
  // The values alone: of which settings the sheet's sentences say.
  QStringList values;
  const Choice& choice = plan.search->choices[static_cast<std::size_t>(placeOf(plan, cell).across)];
  for (std::size_t i = 0; i < choice.size(); ++i)
    values << QString::fromStdString(valueName(plan.search->settings[i], static_cast<std::size_t>(choice[i])));
  return values.join(", ");
}

QVariant SheetModel::headerData(int section, Qt::Orientation direction, int role) const {
  if (!matrix() || (role != Qt::DisplayRole && role != Qt::ToolTipRole)) return {};
  const SheetPlan& plan = sheet()->plan;
  const auto value = [&](const Axis& axis, int index) -> QString {
    if (role == Qt::ToolTipRole && isWording(axis.setting))
      return QString::fromStdString(axis.prompts[static_cast<std::size_t>(index)]);
    return QString::fromStdString(valueName(axis, static_cast<std::size_t>(index)));
  };
  if (direction == Qt::Horizontal) return section < plan.across() ? value(plan.axes[0], section) : QVariant();
  const int seeds = static_cast<int>(plan.seeds.size());
  QString text = plan.axes.size() > 1 ? value(plan.axes[1], section / seeds) : QString();
  if (seeds > 1 || plan.axes.size() < 2)
    text += QString("%1seed\n%2")
                .arg(text.isEmpty() ? "" : "\n")
                .arg(plan.seeds[static_cast<std::size_t>(section % seeds)]);
  return text;
}

void SheetModel::setColumns(int columns, bool wrapped) {
  wrapped = wrapped && mayWrap();
  if (wantedColumns_ == columns && wrapped_ == wrapped) return;
  wantedColumns_ = columns;
  wrapped_ = wrapped;
  refresh();
}

void SheetModel::setOrder(ProofOrder order) {
  order_ = order;
  refresh();
}

void SheetModel::setHoldOf(const std::string& guide) {
  if (holdOf_ == guide) return;
  holdOf_ = guide;
  refresh();
  emit shownChanged();
}

void SheetModel::setLeastShift(double shift) {
  leastShift_ = shift;
  refresh();
}

void SheetModel::setLeastHold(double hold) {
  leastHold_ = hold;
  refresh();
}

}  // namespace hscaffold::app
