#include "app/stage/stage_view.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/bench/bench_parts.h"
#include "app/images.h"
#include "app/widgets/note_label.h"
#include "app/widgets/room.h"
#include "app/widgets/scrub_field.h"
#include "core/image/colour.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {
namespace {

using stage::Beast;
using stage::Person;
using stage::Prop;
using stage::Scene;
using stage::Thing;

constexpr int idRole = Qt::UserRole + 1, poseRole = Qt::UserRole + 2;

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
  auto* leftRoom = new Room("Poses and things", left(), search_);
  auto* tableRoom = new Room("The stage", middle(), table_);
  auto* rightRoom = new Room("What is on it", right(), things_);
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
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.frame || changes.guideList) refresh();
  });
  addActions();
  fillPoses();
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
  lift_ = namedButton("lift figures", "Figures of the pose guide",
                      "Puts the figures of the selected pose guide onto the stage, with the eye that saw them");
  connect(lift_, &QPushButton::clicked, &work_, &StageWork::liftFigures);
  column->addWidget(lift_);
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
  head->addWidget(frame_);
  head->addWidget(outside_, 1);
  auto* fit = namedButton("fit", "All into the frame",
                          "Goes back, the direction kept, until all of it lies in the frame (F)", "link");
  connect(fit, &QPushButton::clicked, &work_, &StageWork::fitEye);
  head->addWidget(fit);
  column->addWidget(table_, 1);
  auto* foot = panel();
  foot->setFixedHeight(34);
  auto* row = new QHBoxLayout(foot);
  row->setContentsMargins(12, 2, 12, 2);
  auto* how = noteLabel("Drag things on the ground (Shift turns), joints, or beside them to go round");
  how->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  how->setToolTip(
      "Right button: move the eye. Wheel, + and -: nearer and farther. J: the next thing; arrows, comma and full stop, "
      "Page Up and "
      "Page Down: move, turn and raise it; Ctrl+D: once more; F: all into the frame");
  row->addWidget(how, 1);
  column->addWidget(foot);
  return middle;
}

void StageView::addNumber(QGridLayout& grid, const char* objectName, const QString& name, const Limits& limits, Get get,
                          std::function<void(Scene&, Thing*, double)> set) {
  auto* label = noteLabel(name);
  auto* field = new ScrubField;
  field->setObjectName(objectName);
  field->setAccessibleName(name);
  field->setUp(limits);
  field->setFixedWidth(86);
  const int row = grid.rowCount();
  grid.addWidget(label, row, 0);
  grid.addWidget(field, row, 1, Qt::AlignRight);
  numbers_.push_back({label, field, std::move(get)});
  connect(field, &ScrubField::edited, this, [this, name, objectName, set = std::move(set)](double value) {
    const std::string id = work_.selected();
    work_.edit(
        name + " on the stage",
        [&](Scene& scene) {
          Thing* chosen = nullptr;
          for (Thing& thing : scene.things)
            if (thing.id == id) chosen = &thing;
          set(scene, chosen, value);
        },
        std::string("stage ") + objectName + id);
  });
  connect(field, &ScrubField::finished, &work_, &StageWork::seal);
}

QWidget* StageView::right() {
  auto* inside = new QWidget;
  auto* column = new QVBoxLayout(inside);
  column->setContentsMargins(12, 10, 10, 10);
  column->setSpacing(6);
  column->addWidget(titleLabel("On the stage"));
  things_ = new QListWidget;
  things_->setObjectName("things on the stage");
  things_->setAccessibleName("Things on the stage");
  things_->setFont(textFont(9));
  things_->setMinimumHeight(120);
  connect(things_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
    if (!filling_ && item != nullptr) work_.select(item->data(idRole).toString().toStdString());
  });
  connect(things_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (filling_) return;
    const std::string id = item->data(idRole).toString().toStdString();
    const bool hidden = item->checkState() != Qt::Checked;
    const std::string name = fittedText(item->text().toStdString(), longestName);
    work_.edit("Name or hide on the stage", [&](Scene& scene) {
      for (Thing& thing : scene.things)
        if (thing.id == id) thing.hidden = hidden, thing.name = name;
    });
  });
  column->addWidget(things_, 1);
  chosen_ = titleLabel("");
  chosen_->setObjectName("chosen");
  column->addWidget(chosen_);
  auto* grid = new QGridLayout;
  grid->setSpacing(3);
  grid->setColumnStretch(0, 1);
  const auto ofProp = [](int side) {
    return [side](const Scene&, const Thing* thing) -> std::optional<double> {
      const auto* prop = thing != nullptr ? std::get_if<Prop>(&thing->is) : nullptr;
      return prop != nullptr ? std::optional(static_cast<double>(prop->size[side])) : std::nullopt;
    };
  };
  const auto setSide = [](int side) {
    return [side](Scene&, Thing* thing, double value) {
      if (auto* prop = thing != nullptr ? std::get_if<Prop>(&thing->is) : nullptr)
        prop->size[side] = static_cast<float>(value);
    };
  };
  constexpr Limits metres{0.01, 200, 1, 0.05, 2, "m"};
  addNumber(*grid, "thing across", "Across", metres, ofProp(0), setSide(0));
  addNumber(*grid, "thing high", "High", metres, ofProp(1), setSide(1));
  addNumber(*grid, "thing deep", "Deep", metres, ofProp(2), setSide(2));
  addNumber(
      *grid, "figure size", "Size", {0.1, 5, 1.7, 0.02, 2, "m"},
      [](const Scene&, const Thing* thing) -> std::optional<double> {
        if (thing == nullptr) return {};
        if (const auto* person = std::get_if<Person>(&thing->is)) return static_cast<double>(person->size);
        if (const auto* beast = std::get_if<Beast>(&thing->is)) return static_cast<double>(beast->size);
        return {};
      },
      [](Scene&, Thing* thing, double value) {
        if (thing == nullptr) return;
        if (auto* person = std::get_if<Person>(&thing->is))
          person->size = std::clamp(static_cast<float>(value), 0.2f, 4.0f);
        if (auto* beast = std::get_if<Beast>(&thing->is)) beast->size = static_cast<float>(value);
      });
  struct BuildField {
    const char* id;
    const char* name;
    float stage::Build::*value;
    Limits limits;
  };
  for (const BuildField& each : {BuildField{"girth", "Girth", &stage::Build::girth, {0.5, 2, 1, 0.02, 2}},
                                 BuildField{"shoulders", "Shoulders", &stage::Build::shoulders, {0.6, 1.6, 1, 0.02, 2}},
                                 BuildField{"hips", "Hips", &stage::Build::hips, {0.6, 1.8, 1, 0.02, 2}},
                                 BuildField{"head", "Head", &stage::Build::head, {0.6, 1.8, 1, 0.02, 2}}})
    addNumber(
        *grid, each.id, each.name, each.limits,
        [value = each.value](const Scene&, const Thing* thing) -> std::optional<double> {
          const auto* person = thing != nullptr ? std::get_if<Person>(&thing->is) : nullptr;
          return person != nullptr ? std::optional(static_cast<double>(person->build.*value)) : std::nullopt;
        },
        [value = each.value](Scene&, Thing* thing, double number) {
          if (auto* person = thing != nullptr ? std::get_if<Person>(&thing->is) : nullptr)
            person->build.*value = static_cast<float>(number);
        });
  addNumber(
      *grid, "thing turn", "Turn", {-180, 180, 0, 1, 0, "°"},
      [](const Scene&, const Thing* thing) -> std::optional<double> {
        return thing != nullptr ? std::optional(static_cast<double>(std::remainder(thing->place.turn, 360.0f)))
                                : std::nullopt;
      },
      [](Scene&, Thing* thing, double value) {
        if (thing != nullptr) thing->place.turn = static_cast<float>(value);
      });
  column->addLayout(grid);
  column->addSpacing(4);
  column->addWidget(titleLabel("Eye and light"));
  auto* eye = new QGridLayout;
  eye->setSpacing(3);
  eye->setColumnStretch(0, 1);
  const auto always = [](auto value) {
    return [value](const Scene& scene, const Thing*) { return std::optional(static_cast<double>(value(scene))); };
  };
  addNumber(*eye, "lens", "Lens", {14, 200, 38, 1, 0, "mm"}, always([](const Scene& s) { return s.eye.millimetres; }),
            [](Scene& s, Thing*, double value) { s.eye.millimetres = static_cast<float>(value); });
  addNumber(*eye, "eye height", "Height", {0.05, 100, 1.4, 0.05, 2, "m"},
            always([](const Scene& s) { return s.eye.at.y(); }),
            [](Scene& s, Thing*, double value) { s.eye.at.y() = static_cast<float>(value); });
  addNumber(*eye, "eye tilt", "Tilt", {-89, 89, 0, 1, 0, "°"}, always([](const Scene& s) { return s.eye.tilt; }),
            [](Scene& s, Thing*, double value) { s.eye.tilt = static_cast<float>(value); });
  addNumber(*eye, "eye roll", "Roll", {-180, 180, 0, 1, 0, "°"}, always([](const Scene& s) { return s.eye.roll; }),
            [](Scene& s, Thing*, double value) { s.eye.roll = static_cast<float>(value); });
  addNumber(*eye, "light from", "Light from", {-180, 180, -35, 1, 0, "°"},
            always([](const Scene& s) { return std::remainder(s.light.from, 360.0f); }),
            [](Scene& s, Thing*, double value) { s.light.from = static_cast<float>(value); });
  addNumber(*eye, "light height", "Light's height", {2, 90, 50, 1, 0, "°"},
            always([](const Scene& s) { return s.light.height; }),
            [](Scene& s, Thing*, double value) { s.light.height = static_cast<float>(value); });
  column->addLayout(eye);
  auto* shotRow = new QHBoxLayout;
  shotRow->setSpacing(6);
  shots_ = new QComboBox;
  shots_->setObjectName("shots");
  shots_->setAccessibleName("Shots");
  shots_->setToolTip("Eyes that were kept");
  connect(shots_, &QComboBox::activated, this, [this](int index) {
    if (index > 0) work_.takeShot(static_cast<std::size_t>(index) - 1);
    shots_->setCurrentIndex(0);
  });
  auto* keep = namedButton("keep shot", "Keep shot", "Keeps where the eye is now");
  connect(keep, &QPushButton::clicked, &work_, &StageWork::keepShot);
  shotRow->addWidget(shots_, 1);
  shotRow->addWidget(keep);
  column->addLayout(shotRow);
  auto* use =
      namedButton("use on the bench", "Use on the Bench",
                  "Pose, depth and lines of this stage as guides; press again to bring them up to date", "primary");
  connect(use, &QPushButton::clicked, this, [this] {
    work_.useOnBench();
    emit benchAsked();
  });
  auto* words = namedButton("stage words", "Add its words",
                            "What figures do, from where they are seen, and what stands before what", "link");
  connect(words, &QPushButton::clicked, &work_, &StageWork::addWords);
  auto* light = namedButton("use light", "Its light as tone",
                            "The shaded picture as a reference, and a tone guide of it", "link");
  connect(light, &QPushButton::clicked, this, [this] {
    work_.useLight();
    emit benchAsked();
  });
  auto* scroll = new QScrollArea;
  scroll->setWidget(inside);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* right = app::panel();
  right->setFixedWidth(262);
  auto* whole = new QVBoxLayout(right);
  whole->setContentsMargins(0, 0, 0, 10);
  whole->addWidget(scroll, 1);
  auto* foot = new QHBoxLayout;
  foot->setContentsMargins(12, 0, 10, 0);
  foot->addWidget(use, 1);
  auto* links = new QHBoxLayout;
  links->setContentsMargins(8, 0, 6, 0);
  links->addWidget(words);
  links->addStretch(1);
  links->addWidget(light);
  whole->addLayout(links);
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
  add("Off the stage", "Delete", [this] { work_.removeSelected(); });
  add("Once more", "Ctrl+D", [this] { work_.duplicateSelected(); });
  add("Keep this shot", "", [this] { work_.keepShot(); });
  add("Figures of the pose guide onto the stage", "", [this] { work_.liftFigures(); });
}

QRect StageView::messagePlace() const { return {table_->mapTo(this, QPoint(0, 0)), table_->size()}; }

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

void StageView::refresh() {
  const Scene& scene = work_.scene();
  const Thing* thing = work_.selectedThing();
  const Size frame = desk_.document.state().frame;
  frame_->setText(QString("Frame %1 × %2").arg(frame.width).arg(frame.height));
  outside_->setText(table_->outside().join("; "));
  outside_->setToolTip(outside_->text());
  setOwnSheet(*outside_, QString("color: %1").arg(theme().doubt.name()));
  filling_ = true;
  things_->clear();
  for (const Thing& each : scene.things) {
    auto* item = new QListWidgetItem(QString::fromStdString(each.name.empty() ? each.id : each.name), things_);
    item->setFlags(item->flags() | Qt::ItemIsUserCheckable | Qt::ItemIsEditable);
    item->setCheckState(each.hidden ? Qt::Unchecked : Qt::Checked);
    item->setData(idRole, QString::fromStdString(each.id));
    if (each.id == work_.selected()) things_->setCurrentItem(item);
  }
  shots_->clear();
  shots_->addItem(scene.shots.empty() ? "No shots yet" : "To a shot...");
  for (const auto& shot : scene.shots) shots_->addItem(QString::fromStdString(shot.name));
  filling_ = false;
  chosen_->setText(thing != nullptr ? QString::fromStdString(thing->name) : QString());
  chosen_->setVisible(thing != nullptr);
  for (const Number& each : numbers_) {
    const auto value = each.get(scene, thing);
    each.name->setVisible(value.has_value());
    each.field->setVisible(value.has_value());
    if (value) each.field->showValue(*value);
  }
  onto_->setEnabled(thing != nullptr && !std::holds_alternative<Prop>(thing->is));
  lift_->setEnabled(work_.canLift());
}

}  // namespace hscaffold::app
