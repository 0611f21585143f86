#include "app/maps/reference_model.h"

#include <algorithm>

#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/tasks/task_runner.h"

namespace hscaffold::app {
namespace {

constexpr int mostSmall = 8 << 20;  ///< bytes

QImage cutTo(const QImage& picture, QSize size) {
  const QImage cover = picture.scaled(size, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation);
  return cover.copy((cover.width() - size.width()) / 2, (cover.height() - size.height()) / 2, size.width(),
                    size.height());
}

}  // namespace

ReferenceModel::ReferenceModel(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QSize size, QObject* parent)
    : QAbstractListModel(parent), document_(document), maps_(maps), tasks_(tasks), size_(size), small_(mostSmall) {
  connect(&document_, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.references) refresh();
  });
  connect(&maps_, &MapRoom::picturesChanged, this, [this] {
    if (!ids_.empty()) emit dataChanged(index(0), index(rowCount() - 1), {Qt::DecorationRole});
  });
  refresh();
}

void ReferenceModel::refresh() {
  std::vector<std::string> now;
  for (const Reference& reference : document_.state().references) now.push_back(reference.id);
  if (now == ids_) return;
  beginResetModel();
  ids_ = std::move(now);
  endResetModel();
}

int ReferenceModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(ids_.size());
}

QModelIndex ReferenceModel::indexOf(const std::string& reference) const {
  const auto found = std::find(ids_.begin(), ids_.end(), reference);
  return found != ids_.end() ? index(static_cast<int>(found - ids_.begin())) : QModelIndex();
}

QImage ReferenceModel::thumbnail(const std::string& reference) const {
  const QImage picture = maps_.referenceImage(reference);
  if (picture.isNull()) return {};
  const auto kept = small_.find(reference);
  if (kept != nullptr && kept->of == picture.cacheKey()) return kept->image;
  auto* self = const_cast<ReferenceModel*>(this);
  tasks_.run(
      self, "reference thumbnail " + reference, Priority::thumbnails,
      [picture, size = size_](const StopToken&) { return cutTo(picture, size); },
      [self, reference, of = picture.cacheKey()](QImage image) {
        const auto cost = static_cast<std::size_t>(image.sizeInBytes());
        self->small_.put(reference, std::make_shared<const Small>(Small{std::move(image), of}), cost);
        const QModelIndex at = self->indexOf(reference);
        if (at.isValid()) emit self->dataChanged(at, at, {Qt::DecorationRole});
      });
  return kept != nullptr ? kept->image : QImage();
}

QVariant ReferenceModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || index.row() >= rowCount()) return {};
  const Reference* reference = document_.state().reference(ids_[static_cast<std::size_t>(index.row())]);
  if (reference == nullptr) return {};
  switch (role) {
    case idRole:
      return QString::fromStdString(reference->id);
    case Qt::DecorationRole:
      return thumbnail(reference->id);
    case Qt::AccessibleTextRole:
      return QString::fromStdString(reference->name);
    case Qt::ToolTipRole:
      return QString(
                 "%1, %2 x %3. Click to select, double-click to place it, Delete takes it out, right click for more")
          .arg(QString::fromStdString(reference->name))
          .arg(reference->size.width)
          .arg(reference->size.height);
    default:
      return {};
  }
}

}  // namespace hscaffold::app
