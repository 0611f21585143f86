#include "app/bench/pose_library.h"

#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMenu>
#include <QMimeData>
#include <QPixmapCache>
#include <QPushButton>
#include <QSlider>
#include <QStandardItemModel>
#include <QStandardPaths>
#include <QToolButton>
#include <nlohmann/json.hpp>

#include "app/images.h"
#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "core/pose/coco.h"
#include "core/pose/fit.h"
#include "core/pose/pose_map.h"

namespace hscaffold::app {
namespace {

constexpr QSize poseThumb{76, 86};
constexpr int numberRole = Qt::UserRole + 1;

QByteArray bytesOf(const pose::Figure& figure) {
  pose::Figures one;
  one.frame = {1024, 1024};
  one.figures = {std::make_shared<const pose::Figure>(figure)};
  return QByteArray::fromStdString(pose::figuresToText(one));
}

/// Items carry their pose when they are dragged.
class PoseModel : public QStandardItemModel {
 public:
  PoseModel(PoseLibrary* library) : QStandardItemModel(library), library_(library) {}
  [[nodiscard]] QStringList mimeTypes() const override { return {poseMime}; }
  [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override {
    const auto figure = indexes.isEmpty() ? std::nullopt : library_->chosen();
    if (!figure) return nullptr;
    auto* data = new QMimeData;
    data->setData(poseMime, bytesOf(*figure));
    return data;
  }
  [[nodiscard]] Qt::DropActions supportedDragActions() const override { return Qt::CopyAction; }

 private:
  PoseLibrary* library_;
};

QPixmap thumbnailOf(const pose::Figure& figure, double ratio) {
  const Size size{static_cast<int>(poseThumb.width() * ratio), static_cast<int>(poseThumb.height() * ratio)};
  pose::Figures one;
  one.frame = size;
  const double margin = 12 * ratio;
  one.figures = {std::make_shared<const pose::Figure>(
      pose::fittedInto(figure, pose::Bounds{margin, margin, size.width - margin, size.height - margin}))};
  QPixmap pixmap = QPixmap::fromImage(toQImage(pose::drawnFigures(one, size, pose::houseInks(), 1.25)));
  pixmap.setDevicePixelRatio(ratio);
  return pixmap;
}

}  // namespace

std::optional<pose::Figure> figureFromMime(const QByteArray& data) {
  try {
    const auto figures = pose::figuresFromText(data.toStdString());
    if (!figures.figures.empty()) return *figures.figures.front();
  } catch (const std::exception&) {
    // Something else was dragged.
  }
  return {};
}

OwnPoses::OwnPoses()
    : poses_(
          "poses.json", "Your own poses",
          [](const std::string& text) { return pose::posesFromJson(text, "Your own poses"); },
          [](const std::vector<pose::NamedPose>& poses) { return pose::posesToJson(poses, "Own poses"); }) {}

void OwnPoses::add(pose::NamedPose pose) {
  poses_.change([&](std::vector<pose::NamedPose>& all) { all.push_back(std::move(pose)); });
}

void OwnPoses::remove(std::size_t number) {
  if (number >= list().size()) return;
  // The same pose, wherever it stands by now.
  poses_.change([gone = list()[number]](std::vector<pose::NamedPose>& all) {
    if (const auto found = std::find(all.begin(), all.end(), gone); found != all.end()) all.erase(found);
  });
}

std::size_t OwnPoses::importFrom(const std::filesystem::path& file) {
  const Bytes bytes = readWholeFile(file);
  const auto read = pose::posesFromJson(textOf(bytes), file.filename().string());
  std::size_t count = 0;
  poses_.change([&](std::vector<pose::NamedPose>& all) {
    for (const auto& pose : read)
      if (std::find(all.begin(), all.end(), pose) == all.end()) {
        all.push_back(pose);
        ++count;
      }
  });
  return count;
}

void OwnPoses::exportTo(const std::filesystem::path& file) const {
  const std::string text = pose::posesToJson(list(), "Own poses");
  writeFileAtomically(file, hscaffold::bytesOf(text));
}

PoseLibrary::PoseLibrary(PoseWork& work, QWidget* parent) : QWidget(parent), work_(work) {
  setAccessibleName("Pose library");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 6, 12, 10);
  column->setSpacing(6);
  auto* head = new QHBoxLayout;
  auto* title = new QLabel("Poses");
  title->setProperty("role", "title");
  head->addWidget(title);
  count_ = new QLabel;
  count_->setProperty("role", "note");
  count_->setFont(textFont(9));
  head->addWidget(count_);
  head->addStretch(1);
  auto* files = new QToolButton;
  setIcon(*files, "more");
  files->setToolTip("Own poses: import, export");
  files->setAccessibleName("Own poses");
  files->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(files);
  menu->addAction("Import poses...", this, [this] {
    const QString path = QFileDialog::getOpenFileName(this, "Import poses", {}, "Poses (*.json)");
    if (path.isEmpty()) return;
    guarded([&] {
      const auto count = own_.importFrom(path.toStdString());
      fill();
      emit said(count == 1 ? QString("One pose came in.") : QString("%1 poses came in.").arg(count));
    });
  });
  auto* exporting = menu->addAction("Export own poses...", this, [this] {
    const QString path = QFileDialog::getSaveFileName(this, "Export own poses", "poses.json", "Poses (*.json)");
    if (!path.isEmpty()) guarded([&] { own_.exportTo(path.toStdString()); });
  });
  connect(menu, &QMenu::aboutToShow, this, [this, exporting] { exporting->setEnabled(!own_.list().empty()); });
  files->setMenu(menu);
  head->addWidget(files);
  auto* close = new QPushButton("Close");
  close->setToolTip("Back to the proof (B)");
  connect(close, &QPushButton::clicked, this, &PoseLibrary::closed);
  head->addWidget(close);
  column->addLayout(head);

  auto* filters = new QHBoxLayout;
  filters->setSpacing(6);
  search_ = new QLineEdit;
  search_->setMinimumWidth(140);
  search_->setPlaceholderText("Search by word");
  search_->setAccessibleName("Search poses");
  search_->setClearButtonEnabled(true);
  connect(search_, &QLineEdit::textChanged, this, &PoseLibrary::fill);
  filters->addWidget(search_, 3);
  category_ = new QComboBox;
  category_->setAccessibleName("Category");
  category_->setToolTip("Category");
  category_->addItem("All");
  for (const auto& pose : pose::housePoses())
    if (const QString name = QString::fromStdString(pose.category); category_->findText(name) < 0)
      category_->addItem(name);
  category_->addItem("own");
  connect(category_, &QComboBox::currentIndexChanged, this, &PoseLibrary::fill);
  filters->addWidget(category_, 2);
  view_ = new QComboBox;
  view_->setObjectName("seen from");
  view_->setAccessibleName("Seen from");
  view_->setToolTip("Which way figures face");
  view_->addItem("Each as it is best seen", 1000.0);
  for (const auto& view : pose::poseViews()) view_->addItem(view.name, view.turn);
  connect(view_, &QComboBox::currentIndexChanged, this, &PoseLibrary::fill);
  filters->addWidget(view_, 2);
  column->addLayout(filters);

  model_ = new PoseModel(this);
  list_ = new QListView;
  list_->setModel(model_);
  list_->setViewMode(QListView::IconMode);
  list_->setIconSize(poseThumb);
  list_->setGridSize(poseThumb + QSize(14, 40));
  list_->setResizeMode(QListView::Adjust);
  list_->setMovement(QListView::Static);
  list_->setDragEnabled(true);
  list_->setDragDropMode(QAbstractItemView::DragOnly);
  list_->setWordWrap(true);
  list_->setFont(textFont(9));
  list_->setUniformItemSizes(true);
  list_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  list_->setAccessibleName("Poses");
  list_->setToolTip("Drag a pose onto the picture; double-click to draw a box for it there");
  connect(list_, &QListView::doubleClicked, this, [this] {
    if (const auto figure = chosen()) emit putAsked(*figure);
  });
  column->addWidget(list_, 1);

  auto* blending = new QHBoxLayout;
  blending->setSpacing(6);
  blendName_ = new QLabel("Blend");
  blendName_->setProperty("role", "note");
  blending->addWidget(blendName_);
  blend_ = new QSlider(Qt::Horizontal);
  blend_->setRange(0, 100);
  blend_->setAccessibleName("Blend");
  blend_->setToolTip("Left: the selected figure as it is. Right: in the chosen pose");
  connect(blend_, &QSlider::valueChanged, this, &PoseLibrary::blendTo);
  connect(blend_, &QSlider::sliderReleased, this, &PoseLibrary::endBlend);
  blendLater_.setSingleShot(true);
  blendLater_.setInterval(800);
  connect(&blendLater_, &QTimer::timeout, this, &PoseLibrary::endBlend);
  blending->addWidget(blend_, 1);
  column->addLayout(blending);

  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  put_ = new QPushButton("Put on picture");
  put_->setToolTip("Then draw a box on the picture, or click (Enter)");
  connect(put_, &QPushButton::clicked, this, [this] {
    if (const auto figure = chosen()) emit putAsked(*figure);
  });
  take_ = new QPushButton("Use for figure");
  take_->setToolTip("The selected figure takes this pose, as large and where it is");
  connect(take_, &QPushButton::clicked, this, [this] {
    blendTo(100);
    endBlend();
  });
  save_ = new QPushButton("Save figure's pose...");
  save_->setToolTip("Keeps the pose of the selected figure among your own");
  connect(save_, &QPushButton::clicked, this, &PoseLibrary::saveOwn);
  remove_ = new QPushButton("Delete");
  remove_->setToolTip("Deletes the chosen pose from your own");
  connect(remove_, &QPushButton::clicked, this, [this] {
    const int number = list_->currentIndex().data(numberRole).toInt();
    if (!list_->currentIndex().isValid() || static_cast<std::size_t>(number) < houseCount_) return;
    guarded([&] { own_.remove(static_cast<std::size_t>(number) - houseCount_); });
    fill();
  });
  for (QPushButton* button : {put_, take_, save_, remove_}) row->addWidget(button);
  row->addStretch(1);
  column->addLayout(row);
  connect(&work_, &PoseWork::changed, this, &PoseLibrary::showBlend);
  connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this, &PoseLibrary::showBlend);
  fill();
}

void PoseLibrary::guarded(const std::function<void()>& job) {
  try {
    job();
  } catch (const std::exception& error) {
    emit said(error.what());
  }
}

void PoseLibrary::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) return emit closed();
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    if (const auto figure = chosen()) emit putAsked(*figure);
    return;
  }
  QWidget::keyPressEvent(event);
}

const pose::NamedPose* PoseLibrary::poseAt(int number) const {
  return number >= 0 && static_cast<std::size_t>(number) < all_.size() ? &all_[static_cast<std::size_t>(number)]
                                                                       : nullptr;
}

pose::Figure PoseLibrary::figureOf(const pose::NamedPose& pose) const {
  const pose::Skeleton& skeleton = pose::skeletonOf(pose.skeleton);
  const double turn = view_->currentData().toDouble();
  auto figure = pose::figureFrom(skeleton, turn > 360 ? pose.pose : pose::seenFrom(skeleton, pose.pose, turn), {});
  figure.name = pose.name;
  return figure;
}

std::optional<pose::Figure> PoseLibrary::chosen() const {
  const QModelIndex index = list_->currentIndex();
  const auto* pose = index.isValid() ? poseAt(index.data(numberRole).toInt()) : nullptr;
  return pose != nullptr ? std::optional(figureOf(*pose)) : std::nullopt;
}

void PoseLibrary::fill() {
  const auto house = pose::housePoses();
  all_.assign(house.begin(), house.end());
  houseCount_ = all_.size();
  all_.insert(all_.end(), own_.list().begin(), own_.list().end());
  const QString category = category_->currentIndex() > 0 ? category_->currentText() : QString();
  model_->clear();
  int shown = 0;
  for (const std::size_t i : pose::foundPoses(all_, search_->text().toStdString())) {
    const auto& pose = all_[i];
    if (!category.isEmpty() && category != QString::fromStdString(pose.category)) continue;
    // The same thumbnail is drawn once, whatever is searched for.
    const QString key = QString("pose %1 %2 %3 %4")
                            .arg(i)
                            .arg(QString::fromStdString(pose.name))
                            .arg(view_->currentData().toDouble())
                            .arg(devicePixelRatioF());
    QPixmap pixmap;
    if (!QPixmapCache::find(key, &pixmap)) {
      pixmap = thumbnailOf(figureOf(pose), devicePixelRatioF());
      QPixmapCache::insert(key, pixmap);
    }
    auto* item = new QStandardItem(QIcon(pixmap), QString::fromStdString(pose.name));
    item->setData(static_cast<int>(i), numberRole);
    QStringList tags;
    for (const auto& tag : pose.tags) tags << QString::fromStdString(tag);
    item->setToolTip(
        QString("%1 (%2)\n%3")
            .arg(QString::fromStdString(pose.name), QString::fromStdString(pose.category), tags.join(", ")));
    model_->appendRow(item);
    ++shown;
  }
  count_->setText(shown == 0 ? "nothing found: try another word" : QString::number(shown));
  if (!own_.trouble().isEmpty()) count_->setText(own_.trouble());
  showBlend();
}

void PoseLibrary::showBlend() {
  const auto* pose = list_->currentIndex().isValid() ? poseAt(list_->currentIndex().data(numberRole).toInt()) : nullptr;
  const pose::Figure* figure = work_.selectedFigure();
  const bool both = pose != nullptr && figure != nullptr && figure->skeleton == pose->skeleton;
  put_->setEnabled(pose != nullptr);
  take_->setEnabled(both);
  blend_->setEnabled(both);
  blendName_->setEnabled(both);
  save_->setEnabled(figure != nullptr);
  remove_->setVisible(list_->currentIndex().isValid() &&
                      static_cast<std::size_t>(list_->currentIndex().data(numberRole).toInt()) >= houseCount_);
}

void PoseLibrary::blendTo(int percent) {
  const auto target = chosen();
  const auto selected = work_.selected();
  if (!target || !selected || (!work_.active() && !work_.begin(*selected))) return;
  const pose::Figure& from = work_.start();
  const pose::Skeleton& skeleton = from.kind();
  if (target->skeleton != from.skeleton) return work_.cancel();
  // The pose on this figure's body, its feet where the figure stands.
  pose::BodyPlace place;
  place.size = pose::sizeOf(from);
  place.natural = from.natural;
  auto to = pose::figureFrom(skeleton, *target->body, place);
  if (const auto a = pose::boundsOf(from), b = pose::boundsOf(to); a && b)
    to = pose::moved(to, Point{a->middle().x - b->middle().x, a->bottom - b->bottom});
  to.name = from.name;
  to.on = from.on;
  // Hands and face go along only as far as the figure has them.
  for (std::size_t i = 0; i < to.points.size(); ++i)
    if (skeleton.isBody(i) && !from.points[i].there()) to.points[i] = {};
  work_.update(pose::blendedFigures(from, to, percent / 100.0));
  // By keys, the blend is done when they rest.
  if (!blend_->isSliderDown()) blendLater_.start();
}

void PoseLibrary::endBlend() {
  blendLater_.stop();
  if (!work_.active()) return;
  const auto target = chosen();
  work_.end(target ? "Blend into " + QString::fromStdString(target->name).toLower() : QString("Blend"));
  const QSignalBlocker quiet(blend_);
  blend_->setValue(0);
}

void PoseLibrary::saveOwn() {
  if (work_.selectedFigure() == nullptr) return;
  const pose::Figure figure = *work_.selectedFigure();  // as it is now, whatever becomes of it while a name is asked
  bool ok = false;
  const QString name =
      QInputDialog::getText(this, "Save pose", "Name", QLineEdit::Normal, QString::fromStdString(figure.name), &ok)
          .trimmed();
  if (!ok || name.isEmpty()) return;
  guarded([&] {
    pose::NamedPose pose;
    pose.name = name.left(40).toStdString();
    pose.skeleton = figure.skeleton;
    pose.category = "own";
    pose.pose = pose::withinLimits(
        figure.kind(), figure.body ? *figure.body : pose::lifted(figure, pose::startsFor(figure.skeleton)).pose);
    own_.add(std::move(pose));
    fill();
    emit said(QString("%1 is among your own poses now.").arg(name));
  });
}

}  // namespace hscaffold::app
