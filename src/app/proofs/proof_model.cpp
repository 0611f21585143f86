#include "app/proofs/proof_model.h"

#include <algorithm>
#include <cmath>

#include "app/document/study_document.h"
#include "app/proofs/proof_shelf.h"

namespace hscaffold::app {

ProofModel::ProofModel(StudyDocument& document, ProofShelf& shelf, QObject* parent)
    : QAbstractListModel(parent), shelf_(shelf) {
  connect(&document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.others) refresh();
  });
  connect(&shelf_, &ProofShelf::changed, this, &ProofModel::refresh);
  connect(&shelf_, &ProofShelf::thumbnailChanged, this, [this](qint64 number) {
    const QModelIndex index = indexOf(number);
    if (index.isValid()) emit dataChanged(index, index, {Qt::DecorationRole});
  });
  refresh();
}

void ProofModel::refresh() {
  std::vector<qint64> now;
  for (const ProofInfo* proof : shelf_.shown()) now.push_back(proof->number);
  if (now == numbers_) return;
  beginResetModel();
  numbers_ = std::move(now);
  endResetModel();
}

int ProofModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(numbers_.size());
}

QModelIndex ProofModel::indexOf(qint64 number) const {
  const auto found = std::find(numbers_.begin(), numbers_.end(), number);
  return found != numbers_.end() ? index(static_cast<int>(found - numbers_.begin())) : QModelIndex();
}

QVariant ProofModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || index.row() >= rowCount()) return {};
  const qint64 number = numbers_[static_cast<std::size_t>(index.row())];
  const ProofInfo* proof = shelf_.proof(number);
  if (proof == nullptr) return {};
  switch (role) {
    case numberRole:
      return number;
    case holdRole:
      return meanHold(*proof).value_or(-1);
    case Qt::DecorationRole:
      return shelf_.thumbnail(number);
    case Qt::DisplayRole: {
      const auto hold = meanHold(*proof);
      return hold ? QString("hold %1").arg(std::lround(*hold))
                  : QString(proof->recipe.guides.empty() ? "no guide" : "not measured");
    }
    case Qt::AccessibleTextRole:
      return QString("Proof %1").arg(number);
    case Qt::ToolTipRole: {
      QString tip = QString("Proof %1: seed %2").arg(number).arg(proof->recipe.brief.seed);
      for (const auto& entry : proof->recipe.guides)
        tip += QString("\n%1: weight %2, %3 to %4 %")
                   .arg(QString::fromStdString(entry.guide.name))
                   .arg(entry.guide.weight, 0, 'f', 2)
                   .arg(entry.guide.range.from)
                   .arg(entry.guide.range.to);
      return tip;
    }
    default:
      return {};
  }
}

}  // namespace hscaffold::app
