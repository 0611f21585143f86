#include "app/sheet/sheet_list.h"

#include <QPainter>
#include <QStyledItemDelegate>

#include "app/sheet/sheet_model.h"
#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr int height = 58;

class EntryDelegate : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {120, height}; }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    painter->save();
    painter->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    const QRectF box = QRectF(option.rect).adjusted(1, 2, -1, -4);
    const bool shown = option.state.testFlag(QStyle::State_Selected);
    painter->setPen(QPen(shown ? theme().accent : theme().line, shown ? 1.6 : 1));
    painter->setBrush(theme().raised);
    painter->drawRoundedRect(box, 3, 3);
    const auto pictures = index.data(SheetListModel::picturesRole).value<QList<QImage>>();
    for (int i = 0; i < 4; ++i) {
      const QRectF place(box.left() + 7 + 25 * (i % 2), box.top() + 7 + 19 * (i / 2), 23, 17);
      painter->fillRect(place, theme().ground);
      if (i >= pictures.size() || pictures[i].isNull()) continue;
      const QSizeF part = QSizeF(place.size()).scaled(pictures[i].size(), Qt::KeepAspectRatio);
      painter->drawImage(place, pictures[i],
                         QRectF((pictures[i].width() - part.width()) / 2, (pictures[i].height() - part.height()) / 2,
                                part.width(), part.height()));
    }
    const QRectF text = box.adjusted(64, 7, -6, -6);
    const auto line = [&](const QRectF& place, const QString& words) {
      painter->drawText(place, Qt::AlignLeft | Qt::AlignVCenter,
                        painter->fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(place.width())));
    };
    painter->setPen(theme().text);
    painter->setFont(textFont(9.5, QFont::DemiBold));
    line(QRectF(text.left(), text.top(), text.width(), 18), index.data().toString());
    painter->setPen(theme().softText);
    painter->setFont(textFont(8.5));
    line(QRectF(text.left(), text.top() + 19, text.width(), 17), index.data(SheetListModel::noteRole).toString());
    painter->restore();
  }
};

}  // namespace

SheetListModel::SheetListModel(Desk& desk, QObject* parent) : QAbstractListModel(parent), desk_(desk) {
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.others) refresh();
  });
  connect(&desk_.proofs, &ProofShelf::changed, this, &SheetListModel::refresh);
  connect(&desk_.proofs, &ProofShelf::sheetsChanged, this, &SheetListModel::refresh);
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, [this](qint64 number) {
    for (std::size_t i = 0; i < entries_.size(); ++i)
      if (std::find(entries_[i].first.begin(), entries_[i].first.end(), number) != entries_[i].first.end())
        emit dataChanged(index(static_cast<int>(i)), index(static_cast<int>(i)), {picturesRole});
  });
  refresh();
}

void SheetListModel::refresh() {
  std::vector<Entry> now{{allProofs, 0, {}}, {keptProofs, 0, {}}};
  std::map<std::int64_t, std::size_t> places;
  const auto& sheets = desk_.proofs.sheets();
  for (auto info = sheets.rbegin(); info != sheets.rend(); ++info) {
    places[info->number] = now.size();
    now.push_back({info->number, 0, {}});
  }
  const auto count = [](Entry& entry, std::int64_t number) {
    ++entry.count;
    if (entry.first.size() < 4) entry.first.push_back(number);
  };
  for (const ProofInfo* proof : desk_.proofs.shown()) {
    count(now[0], proof->number);
    if (desk_.proofs.isKept(proof->number)) count(now[1], proof->number);
    if (const auto place = places.find(proof->sheet); place != places.end()) count(now[place->second], proof->number);
  }
  // A sheet that was put away whole is seen no more.
  std::erase_if(now, [&](const Entry& entry) {
    const SheetInfo* info = desk_.proofs.sheet(entry.sheet);
    return entry.sheet > 0 && entry.count == 0 && info != nullptr && info->waiting.empty();
  });
  if (now == entries_) return;
  beginResetModel();
  entries_ = std::move(now);
  endResetModel();
}

int SheetListModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(entries_.size());
}

QModelIndex SheetListModel::indexOf(std::int64_t sheet) const {
  for (std::size_t i = 0; i < entries_.size(); ++i)
    if (entries_[i].sheet == sheet) return index(static_cast<int>(i));
  return {};
}

QVariant SheetListModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || index.row() >= rowCount()) return {};
  const Entry& entry = entries_[static_cast<std::size_t>(index.row())];
  const SheetInfo* info = desk_.proofs.sheet(entry.sheet);
  const QString count = QString(entry.count == 1 ? "%1 proof" : "%1 proofs").arg(entry.count);
  switch (role) {
    case sheetRole:
      return static_cast<qint64>(entry.sheet);
    case Qt::DisplayRole:
      if (info == nullptr) return entry.sheet == keptProofs ? "With a star" : "All proofs";
      return QString::fromStdString(nameOf(*info));
    case noteRole: {
      if (info == nullptr || info->plan.axes.empty()) return count;
      QString axes = infoOf(info->plan.axes[0].setting).name;
      if (info->plan.axes.size() > 1) axes += QString::fromUtf8(" \xC3\x97 ") + infoOf(info->plan.axes[1].setting).name;
      return axes;
    }
    case Qt::ToolTipRole:
      return info != nullptr ? QString("%1\n%2 of %3")
                                   .arg(QString::fromStdString(titleOf(info->plan)), count)
                                   .arg(info->plan.cells())
                             : count;
    case picturesRole: {
      QList<QImage> pictures;
      for (const std::int64_t number : entry.first) pictures << desk_.proofs.thumbnail(number);
      return QVariant::fromValue(pictures);
    }
    default:
      return {};
  }
}

SheetList::SheetList(Desk& desk, QWidget* parent) : QListView(parent), desk_(desk) {
  setObjectName("sheets");
  setAccessibleName("Sheets");
  setProperty("role", "strip");
  model_ = new SheetListModel(desk_, this);
  setModel(model_);
  setItemDelegate(new EntryDelegate(this));
  setUniformItemSizes(true);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFrameShape(QFrame::NoFrame);
  connect(selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& index) {
    if (!index.isValid()) return;
    const std::int64_t sheet = index.data(SheetListModel::sheetRole).toLongLong();
    desk_.document.look([&](Looking& looking) { looking.sheet = sheet; });
  });
  connect(model_, &QAbstractItemModel::modelReset, this, &SheetList::follow);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking) follow();
  });
  connect(&themeSignals(), &ThemeSignals::changed, viewport(), qOverload<>(&QWidget::update));
  follow();
}

void SheetList::follow() {
  const QModelIndex index = model_->indexOf(desk_.document.state().looking.sheet);
  if (index == currentIndex()) return;
  const QSignalBlocker quiet(selectionModel());
  setCurrentIndex(index);
  viewport()->update();
  if (index.isValid()) scrollTo(index);
}

}  // namespace hscaffold::app
