#include "app/stage/stage_view.h"

#include <QApplication>
#include <QButtonGroup>
#include <QClipboard>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QScrollArea>
#include <QSlider>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/bench/bench_parts.h"
#include "app/images.h"
#include "app/stage/shot_strip.h"
#include "app/stage/stage_guides.h"
#include "app/widgets/note_label.h"
#include "app/widgets/room.h"
#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {
namespace {

using stage::Beast;
using stage::Person;
using stage::Prop;
using stage::Scene;
using stage::Thing;

constexpr int poseRole = Qt::UserRole + 2;

constexpr int pictureSide = 84;

/// A body in a pose, seen a little from its side; nothing behind it.
QImage bodyPicture(const pose::NamedPose& pose, int side) {
  Scene scene;
  scene.ground = false;
  Thing thing{"p", "", {{0, 0, 0}, 25}, false, Person{}};
  auto angles = stage::anglesAhead(pose);
  if (pose.skeleton == "human")
    std::get<Person>(thing.is).angles = std::move(angles);
  else
    thing.is = Beast{stage::Animal::dog, std::move(angles), 0.9f, {}, {0.3f, 0.2f, 0.1f}};
  scene.things.push_back(std::move(thing));
  scene.eye = stage::lookingFrom({0, 1.5f, 4}, {0, 0.8f, 0}, 60);
  const Size size{side, side};
  scene.eye = stage::fittedEye(scene, size);
  const auto look = stage::lookAt(scene, size);
  const auto pixels = toSrgb8(look.seen.colour.view());
  QImage out = toQImage(pixels.view()).convertToFormat(QImage::Format_ARGB32);
  for (int y = 0; y < side; ++y) {
    auto* line = reinterpret_cast<QRgb*>(out.scanLine(y));
    for (int x = 0; x < side; ++x)
      if (look.seen.object(x, y) == 0) line[x] = 0;
  }
  return out;
}

}  // namespace

StageView::StageView(Desk& desk, QWidget* parent) : MainView(parent), desk_(desk), work_(desk) {
  table_ = new StageTable(desk_, work_);
  panel_ = new ThingPanel(work_, *table_);
  auto* leftRoom = new Room("Poses and things", left(), search_);
  auto* tableRoom = new Room("The stage", middle(), table_);
  auto* rightRoom = new Room("What is on it", right(), &panel_->list());
  setRooms({leftRoom, tableRoom, rightRoom}, tableRoom);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(2);
  row->addWidget(leftRoom);
  row->addWidget(tableRoom, 1);
  row->addWidget(rightRoom);
  connect(&work_, &StageWork::changed, this, &StageView::refresh);
  connect(&work_, &StageWork::said, this, &StageView::said);
  connect(table_, &StageTable::outsideChanged, this, &StageView::refresh);
  connect(table_, &StageTable::turnsAsked, panel_, &ThingPanel::typeDegrees);
  connect(table_, &StageTable::cutAsked, this, &StageView::cut);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.frame || changes.guideList) refresh();
    if (changes.references) fillGhosts();
  });
  addActions();
  fillPoses();
  fillGhosts();
  refresh();
}

QWidget* StageView::left() {
  auto* left = app::panel();
  left->setFixedWidth(250);
  auto* column = new QVBoxLayout(left);
  column->setContentsMargins(12, 10, 10, 10);
  column->setSpacing(6);
  auto* sets = new QComboBox;
  sets->setObjectName("sets");
  sets->setAccessibleName("Take a set");
  sets->setToolTip("A set in place of what is on the stage; undo brings that back");
  sets->addItem("Take a set...");
  for (const auto& each : stage::houseScenes()) sets->addItem(each.name);
  connect(sets, &QComboBox::activated, this, [this, sets](int index) {
    if (index > 0) work_.takeSet(stage::houseScenes()[static_cast<std::size_t>(index) - 1]);
    sets->setCurrentIndex(0);
  });
  column->addWidget(sets);
  column->addSpacing(4);
  column->addWidget(titleLabel("Poses"));
  search_ = new QLineEdit;
  search_->setObjectName("search poses");
  search_->setPlaceholderText("kneel, work, air");
  search_->setAccessibleName("Search poses");
  connect(search_, &QLineEdit::textChanged, this, &StageView::fillPoses);
  column->addWidget(search_);
  poses_ = new QListWidget;
  poses_->setObjectName("stage poses");
  poses_->setAccessibleName("Poses");
  poses_->setFont(textFont(8.5));
  poses_->setViewMode(QListView::IconMode);
  poses_->setMovement(QListView::Static);
  poses_->setResizeMode(QListView::Adjust);
  poses_->setWordWrap(true);
  poses_->setIconSize({pictureSide, pictureSide});
  poses_->setGridSize({104, pictureSide + 34});
  poses_->setUniformItemSizes(true);
  connect(poses_, &QListWidget::itemActivated, this, [this] { takePose(false); });
  column->addWidget(poses_, 1);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  auto* fresh = namedButton("new figure", "New figure", "Puts a figure in this pose on the ground before the eye");
  onto_ = namedButton("onto the figure", "Onto the figure", "Gives the chosen figure this pose (Return)");
  connect(fresh, &QPushButton::clicked, this, [this] { takePose(true); });
  connect(onto_, &QPushButton::clicked, this, [this] { takePose(false); });
  buttons->addWidget(fresh, 1);
  buttons->addWidget(onto_, 1);
  column->addLayout(buttons);
  auto* blendRow = new QHBoxLayout;
  blendRow->setSpacing(6);
  blendRow->addWidget(noteLabel("Blend"));
  blend_ = new QSlider(Qt::Horizontal);
  blend_->setObjectName("stage blend");
  blend_->setAccessibleName("Blend into the pose");
  blend_->setToolTip("How far the chosen figure goes into the pose that is marked above");
  blend_->setRange(0, 100);
  connect(blend_, &QSlider::valueChanged, this, &StageView::blend);
  connect(blend_, &QSlider::sliderReleased, this, &StageView::endBlend);
  blendLater_.setSingleShot(true);
  blendLater_.setInterval(900);
  connect(&blendLater_, &QTimer::timeout, this, &StageView::endBlend);
  blendRow->addWidget(blend_, 1);
  column->addLayout(blendRow);
  lift_ = namedButton("lift figures", "Figures of the pose guide",
                      "Puts the figures of the selected pose guide onto the stage, with the eye that saw them");
  connect(lift_, &QPushButton::clicked, &work_, &StageWork::liftFigures);
  column->addWidget(lift_);
  auto* clip = namedButton("from a clip", "From a motion clip...",
                           "A frame of a BVH file, for the chosen figure or a new one (or drop the file here)");
  connect(clip, &QPushButton::clicked, this, &StageView::clipAsked);
  column->addWidget(clip);
  column->addSpacing(4);
  column->addWidget(titleLabel("Things"));
  auto* grid = new QGridLayout;
  grid->setSpacing(4);
  int place = 0;
  const auto add = [&](const QString& name, const QString& text, const std::function<void()>& press) {
    auto* button = new QToolButton;
    button->setObjectName("put " + name);
    button->setText(text);
    button->setFont(textFont(9));
    button->setToolTip("Puts a " + text + " on the ground before the eye");
    button->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    connect(button, &QToolButton::clicked, this, press);
    grid->addWidget(button, place / 4, place % 4);
    ++place;
  };
  for (int form = 0; form <= static_cast<int>(Prop::Form::lump); ++form) {
    const auto each = static_cast<Prop::Form>(form);
    add(stage::idOf(each), stage::idOf(each), [this, each] { work_.addProp(each); });
  }
  int kind = 0;
  for (const char* animal : {"dog", "fox", "horse", "cow", "cat"}) {
    add(animal, animal, [this, kind] { work_.addAnimal(static_cast<stage::Animal>(kind)); });
    ++kind;
  }
  column->addLayout(grid);
  auto* panel = namedButton("put panel", "Panel", "A board that shows the selected reference: a backdrop, a page");
  connect(panel, &QPushButton::clicked, &work_, &StageWork::addPanel);
  auto* model =
      namedButton("put model", "From a glTF...",
                  "A thing from elsewhere, .glb or .gltf (or drop the file here); large ones are made smaller");
  connect(model, &QPushButton::clicked, this, [this] {
    const QString file = QFileDialog::getOpenFileName(this, "A thing from a file", {}, "glTF 2.0 (*.glb *.gltf)");
    if (!file.isEmpty()) work_.addModel(file.toStdString());
  });
  auto* others = new QHBoxLayout;
  others->setSpacing(6);
  others->addWidget(panel, 2);
  others->addWidget(model, 3);
  column->addLayout(others);
  return left;
}

QWidget* StageView::middle() {
  auto* middle = new QWidget;
  auto* column = new QVBoxLayout(middle);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  QHBoxLayout* head = nullptr;
  column->addWidget(headOf(head));
  frame_ = titleLabel("");
  outside_ = noteLabel();
  outside_->setObjectName("outside");
  outside_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  auto* how = namedButton("how to pose", "?", "", "link");
  how->setToolTip(
      "Drag things along the ground (Shift turns them), joints in the picture (Alt: along the ground), rings to turn, "
      "beside them to go round, Ctrl to look round. Right button: move the eye; a right click: what can be done.\n"
      "Wheel, + and -: nearer and farther. J: the next thing; arrows, comma and full stop, Page Up and Page Down: "
      "move, "
      "turn and raise it. Tab: its joints; arrows lead the chosen one (Shift: farther, Alt: along the ground), Return: "
      "type degrees, P: hold it there. X: mirror, G: let down, Ctrl+D: once more, F: all into the frame");
  connect(how, &QPushButton::clicked, this, [this, how] { emit said(how->toolTip()); });
  head->addWidget(frame_);
  head->addWidget(outside_, 1);
  head->addWidget(how);
  ghost_ = new QComboBox;
  ghost_->setObjectName("stage ghost");
  ghost_->setAccessibleName("Reference over the stage");
  ghost_->setToolTip("A reference laid over the frame, to pose and place by");
  ghost_->setFixedWidth(112);
  connect(ghost_, &QComboBox::activated, this, [this] { showGhost(); });
  ghostShare_ = new QSlider(Qt::Horizontal);
  ghostShare_->setObjectName("stage ghost share");
  ghostShare_->setAccessibleName("How much of the reference is seen");
  ghostShare_->setRange(0, 100);
  ghostShare_->setValue(50);
  ghostShare_->setFixedWidth(70);
  connect(ghostShare_, &QSlider::valueChanged, this, [this] { showGhost(); });
  head->addWidget(ghost_);
  head->addWidget(ghostShare_);
  lines_ =
      namedButton("eye of a picture", "Its eye",
                  "Finds the eye of the picture: lay the horizon and two uprights over it by their ends; tilt, roll "
                  "and lens follow. Esc puts the lines away");
  lines_->setCheckable(true);
  lines_->setFixedHeight(26);
  connect(lines_, &QPushButton::toggled, table_, &StageTable::showLines);
  connect(table_, &StageTable::linesDone, this, [this] { lines_->setChecked(false); });
  head->addWidget(lines_);
  auto* fit = namedButton("fit", "All into the frame",
                          "Goes back, the direction kept, until all of it lies in the frame (F)", "link");
  connect(fit, &QPushButton::clicked, &work_, &StageWork::fitEye);
  head->addWidget(fit);
  column->addWidget(table_, 1);
  auto* foot = panel(new ShotStrip(desk_, work_));
  column->addWidget(foot);
  return middle;
}

QWidget* StageView::right() {
  guides_ = new StageGuides(desk_, work_);
  auto* right = app::panel();
  right->setFixedWidth(262);
  auto* whole = new QVBoxLayout(right);
  whole->setContentsMargins(0, 6, 0, 10);
  whole->setSpacing(4);
  auto* tabs = new QHBoxLayout;
  tabs->setContentsMargins(12, 0, 10, 0);
  tabs->setSpacing(4);
  auto* stack = new QStackedWidget;
  auto* which = new QButtonGroup(this);
  const auto add = [&](const char* name, const QString& text, const QString& tip, QWidget* inside) {
    auto* button = namedButton(name, text, tip);
    button->setCheckable(true);
    button->setFixedHeight(26);
    which->addButton(button, stack->count());
    tabs->addWidget(button, 1);
    auto* scroll = new QScrollArea;
    scroll->setWidget(inside);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    stack->addWidget(scroll);
  };
  add("what is on it", "On it", "What is on the stage, and how it is", panel_);
  add("its guides", "Guides", "Maps of the stage, and the guides that follow them", guides_);
  which->button(0)->setChecked(true);
  connect(which, &QButtonGroup::idClicked, stack, &QStackedWidget::setCurrentIndex);
  whole->addLayout(tabs);
  whole->addWidget(stack, 1);
  auto* use = namedButton("use on the bench", "Use on the Bench",
                          "Pose, depth and lines of this stage as guides, which follow it from then on", "primary");
  connect(use, &QPushButton::clicked, this, [this] {
    work_.useOnBench();
    emit benchAsked();
  });
  auto* foot = new QHBoxLayout;
  foot->setContentsMargins(12, 0, 10, 0);
  foot->addWidget(use, 1);
  whole->addLayout(foot);
  return right;
}

void StageView::addActions() {
  const auto add = [this](const QString& text, const QString& keys, const std::function<void()>& run) {
    auto* item = new QAction(text, this);
    // Keys of the table itself: said here, pressed there.
    if (!keys.isEmpty()) item->setText(text + "\t" + keys);
    connect(item, &QAction::triggered, this, run);
    actions_.push_back(item);
  };
  add("All into the frame", "F", [this] { work_.fitEye(); });
  add("Scene from a file...", "", [this] {
    const QString file = QFileDialog::getOpenFileName(this, "A scene from a file", {}, "Scenes (*.json)");
    if (!file.isEmpty() && !takeFile(file.toStdString())) emit said("That file is no scene of a stage.");
  });
  add("Keep this shot", "", [this] { work_.keepShot(); });
  add("Figures of the pose guide onto the stage", "", [this] { work_.liftFigures(); });
  add("Its light as tone", "", [this] { work_.useLight(); });
}

QRect StageView::messagePlace() const { return {table_->mapTo(this, QPoint(0, 0)), table_->size()}; }

bool StageView::copyChosen() {
  const std::string text = work_.copied();
  if (text.empty()) {
    emit said("There is nothing on the stage to copy.");
    return true;
  }
  QApplication::clipboard()->setText(QString::fromStdString(text));
  const Thing* thing = work_.selectedThing();
  emit said(thing != nullptr ? QString("Copied: %1.").arg(QString::fromStdString(stage::calledOf(*thing)))
                             : QString("Copied: all that is on the stage."));
  return true;
}

void StageView::cut() {
  if (work_.selectedThing() == nullptr) return;
  copyChosen();
  work_.cutSelected();
}

bool StageView::pasteHere() {
  const QMimeData* clip = QApplication::clipboard()->mimeData();
  return clip->hasText() && work_.paste(clip->text().toStdString());
}

bool StageView::takeFile(const std::filesystem::path& file) {
  if (file.extension() != ".json") return false;
  try {
    constexpr std::uintmax_t most = 64u << 20;
    if (std::filesystem::file_size(file) > most) return false;
    const std::string text = textOf(readWholeFile(file));
    if (text.find("\"things\"") == std::string::npos) return false;
    const QString name = QString::fromStdString(file.filename().string());
    work_.takeScene(stage::sceneFromText(text, name.toStdString()), name);
  } catch (const std::exception& problem) {
    emit said(problem.what());
  }
  return true;
}

bool StageView::exportShown() {
  QString path = QFileDialog::getSaveFileName(this, "Scene to a file", "stage.json",
                                              "Scene (*.json);;glTF 2.0 (*.gltf);;Its picture (*.png)");
  if (path.isEmpty()) return true;
  if (!QStringList{"json", "gltf", "png"}.contains(QFileInfo(path).suffix().toLower())) path += ".json";
  desk_.write(path, work_.writer(path));
  return true;
}

void StageView::showEvent(QShowEvent* event) {
  MainView::showEvent(event);
  if (!std::exchange(picturesAsked_, true)) makePictures();
}

void StageView::makePictures() {
  const int side = static_cast<int>(pictureSide * devicePixelRatioF());
  desk_.tasks.run(
      this, "pictures of poses", Priority::facts,
      [side](const StopToken& stop) {
        std::vector<QImage> out;
        for (const auto& pose : pose::housePoses()) {
          throwIfStopped(stop);
          out.push_back(bodyPicture(pose, side));
        }
        return out;
      },
      [this](const std::vector<QImage>& made) {
        pictures_.clear();
        for (const QImage& image : made) {
          pictures_.push_back(QPixmap::fromImage(image));
          pictures_.back().setDevicePixelRatio(devicePixelRatioF());
        }
        const auto chosen = poses_->currentRow();
        fillPoses();
        poses_->setCurrentRow(chosen);
      });
}

void StageView::fillPoses() {
  poses_->clear();
  const auto all = pose::housePoses();
  for (const std::size_t i : pose::foundPoses(all, search_->text().toStdString())) {
    auto* item = new QListWidgetItem(QString::fromStdString(all[i].name), poses_);
    item->setData(poseRole, static_cast<int>(i));
    item->setToolTip(item->text() + ": " + QString::fromStdString(all[i].category));
    if (i < pictures_.size()) item->setIcon(QIcon(pictures_[i]));
  }
  if (poses_->count() > 0) poses_->setCurrentRow(0);
}

void StageView::takePose(bool fresh) {
  const QListWidgetItem* item = poses_->currentItem();
  if (item == nullptr) return;
  const auto& pose = pose::housePoses()[static_cast<std::size_t>(item->data(poseRole).toInt())];
  if (!fresh && work_.givePose(pose)) return;
  if (pose.skeleton == "human") return work_.addPerson(pose);
  if (!fresh) emit said("Choose an animal on the stage for this pose.");
  if (fresh) {
    work_.addAnimal(stage::Animal::dog);
    work_.givePose(pose);
  }
}

void StageView::showGhost() {
  const std::string reference = ghost_->currentData().toString().toStdString();
  ghostShare_->setVisible(!reference.empty());
  lines_->setVisible(!reference.empty());
  if (reference.empty()) lines_->setChecked(false);
  table_->setGhost(reference, ghostShare_->value() / 100.0);
}

void StageView::fillGhosts() {
  const std::string shown = table_->ghost();
  ghost_->clear();
  ghost_->addItem("No ghost", QString());
  for (const Reference& each : desk_.document.state().references) {
    ghost_->addItem(QString::fromStdString(std::filesystem::path(each.name).stem().string()),
                    QString::fromStdString(each.id));
    if (each.id == shown) ghost_->setCurrentIndex(ghost_->count() - 1);
  }
  showGhost();
}

void StageView::blend(int percent) {
  const QListWidgetItem* item = poses_->currentItem();
  const Thing* thing = work_.selectedThing();
  if (item == nullptr || thing == nullptr || (percent == 0 && !blendFrom_)) return;
  if (!blendFrom_ || blendFrom_->id != thing->id) blendFrom_ = *thing;
  const auto& pose = pose::housePoses()[static_cast<std::size_t>(item->data(poseRole).toInt())];
  work_.blendPose(*blendFrom_, pose, percent / 100.0);
  if (!blend_->isSliderDown()) blendLater_.start();
}

void StageView::endBlend() {
  blendLater_.stop();
  blendFrom_.reset();
  work_.seal();
  const QSignalBlocker still(blend_);
  blend_->setValue(0);
}

void StageView::refresh() {
  const Thing* thing = work_.selectedThing();
  const Size frame = desk_.document.state().frame;
  frame_->setText(QString("Frame %1 × %2").arg(frame.width).arg(frame.height));
  const QString outside = table_->outside().join("; ");
  outside_->setText(outside_->fontMetrics().elidedText(outside, Qt::ElideRight, std::max(60, outside_->width())));
  outside_->setToolTip(outside);
  setOwnSheet(*outside_, QString("color: %1").arg(theme().doubt.name()));
  blend_->setEnabled(thing != nullptr && stage::isFigure(*thing));
  onto_->setEnabled(thing != nullptr && !std::holds_alternative<Prop>(thing->is));
  lift_->setEnabled(work_.canLift());
}

}  // namespace hscaffold::app
