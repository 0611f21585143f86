#include "app/stage/thing_panel.h"

#include <QCheckBox>
#include <QColorDialog>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/images.h"
#include "app/theme/theme.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {
namespace {

using stage::Beast;
using stage::Build;
using stage::Clothes;
using stage::Person;
using stage::Prop;
using stage::Scene;
using stage::Thing;

constexpr int thingRole = Qt::UserRole + 3;
constexpr int fieldWidth = 92;

const Person* personOf(const Thing* thing) { return thing != nullptr ? std::get_if<Person>(&thing->is) : nullptr; }
Person* personOf(Thing* thing) { return thing != nullptr ? std::get_if<Person>(&thing->is) : nullptr; }

/// A number, a choice or a flag of things of a kind. @param access  gives it, of a kind that is const or not
template <typename Kind, typename Access>
ThingValue valueOf(Access access) {
  return {[access](const Scene&, const Thing* thing) -> std::optional<double> {
            const auto* of = thing != nullptr ? std::get_if<Kind>(&thing->is) : nullptr;
            return of != nullptr ? std::optional(static_cast<double>(access(*of))) : std::nullopt;
          },
          [access](Scene&, Thing* thing, double value) {
            auto* of = thing != nullptr ? std::get_if<Kind>(&thing->is) : nullptr;
            if (of == nullptr) return;
            using Is = std::remove_cvref_t<decltype(access(*of))>;
            if constexpr (std::is_same_v<Is, bool>)
              access(*of) = value > 0.5;
            else if constexpr (std::is_enum_v<Is>)
              access(*of) = static_cast<Is>(static_cast<int>(value));
            else
              access(*of) = static_cast<Is>(value);
          }};
}

}  // namespace

ThingPanel::ThingPanel(StageWork& work, StageTable& table, QWidget* parent)
    : QWidget(parent), work_(work), table_(table) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 10, 10);
  column->setSpacing(5);
  things_ = new QListWidget;
  things_->setObjectName("things on the stage");
  things_->setAccessibleName("Things on the stage");
  things_->setFont(textFont(9));
  things_->setFixedHeight(128);
  connect(things_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
    if (!filling_ && item != nullptr) work_.select(item->data(thingRole).toString().toStdString());
  });
  connect(things_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (filling_) return;
    const std::string id = item->data(thingRole).toString().toStdString();
    const bool hidden = item->checkState() != Qt::Checked;
    const std::string name = fittedText(item->text().toStdString(), longestName);
    work_.edit("Name or hide on the stage", [&](Scene& scene) {
      for (Thing& thing : scene.things)
        if (thing.id == id) thing.hidden = hidden, thing.name = name;
    });
  });
  column->addWidget(things_);
  auto* head = new QHBoxLayout;
  chosen_ = titleLabel("");
  chosen_->setObjectName("chosen");
  chosen_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  menu_ = namedButton("thing menu", "Do...", "Looks, holds, mirrors, lets it down, groups, locks (right click on it)");
  menu_->setFixedHeight(24);
  connect(menu_, &QPushButton::clicked, this,
          [this] { table_.showMenu(menu_->mapToGlobal(QPoint(0, menu_->height()))); });
  head->addWidget(chosen_, 1);
  head->addWidget(menu_);
  column->addLayout(head);
  addPlace(*column);
  joint_ = noteLabel();
  joint_->setObjectName("chosen joint");
  column->addWidget(joint_);
  turns_ = new QGridLayout;
  turns_->setSpacing(3);
  turns_->setColumnStretch(0, 1);
  column->addLayout(turns_);
  addHands(*column);
  addBuild(*column);
  addClothes(*column);
  addEye(*column);
  column->addStretch(1);
  connect(&work_, &StageWork::changed, this, &ThingPanel::refresh);
  connect(&table_, &StageTable::jointChanged, this, &ThingPanel::refresh);
  refresh();
}

QGridLayout* ThingPanel::section(QVBoxLayout& column, const QString& title, int& fold) {
  auto* head = new QToolButton;
  head->setObjectName("fold " + title.toLower());
  head->setText(title);
  head->setCheckable(true);
  head->setAutoRaise(true);
  head->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  head->setArrowType(Qt::RightArrow);
  head->setFont(textFont(9));
  auto* body = new QWidget;
  auto* grid = new QGridLayout(body);
  grid->setContentsMargins(0, 0, 0, 4);
  grid->setSpacing(3);
  grid->setColumnStretch(0, 1);
  column.addWidget(head);
  column.addWidget(body);
  fold = static_cast<int>(folds_.size());
  folds_.push_back({head, body});
  connect(head, &QToolButton::toggled, this, [this, head](bool open) {
    head->setArrowType(open ? Qt::DownArrow : Qt::RightArrow);
    refresh();
  });
  return grid;
}

void ThingPanel::addRow(QGridLayout& grid, int fold, const QString& name, QWidget* edit,
                        std::function<bool(const Scene&, const Thing*)> show) {
  auto* label = noteLabel(name);
  const int row = grid.rowCount();
  grid.addWidget(label, row, 0);
  grid.addWidget(edit, row, 1, Qt::AlignRight);
  fields_.push_back({label, edit, fold, std::move(show)});
}

void ThingPanel::edit(const QString& name, const char* objectName, const ThingValue::Set& set, double value) {
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
}

void ThingPanel::addNumber(QGridLayout& grid, int fold, const char* objectName, const QString& name,
                           const Limits& limits, ThingValue of) {
  auto* field = new ScrubField;
  field->setObjectName(objectName);
  field->setAccessibleName(name);
  field->setUp(limits);
  field->setFixedWidth(fieldWidth);
  connect(field, &ScrubField::edited, this,
          [this, name, objectName, set = std::move(of.set)](double value) { edit(name, objectName, set, value); });
  connect(field, &ScrubField::finished, &work_, &StageWork::seal);
  addRow(grid, fold, name, field, [field, get = std::move(of.get)](const Scene& scene, const Thing* thing) {
    const auto value = get(scene, thing);
    if (value) field->showValue(*value);
    return value.has_value();
  });
}

void ThingPanel::addChoice(QGridLayout& grid, int fold, const char* objectName, const QString& name,
                           const QStringList& choices, ThingValue of) {
  auto* box = new QComboBox;
  box->setObjectName(objectName);
  box->setAccessibleName(name);
  box->addItems(choices);
  box->setFixedWidth(fieldWidth + 28);
  connect(box, &QComboBox::activated, this, [this, name, objectName, set = std::move(of.set)](int index) {
    edit(name, objectName, set, index);
    work_.seal();
  });
  addRow(grid, fold, name, box, [box, get = std::move(of.get)](const Scene& scene, const Thing* thing) {
    const auto value = get(scene, thing);
    if (value) box->setCurrentIndex(static_cast<int>(*value));
    return value.has_value();
  });
}

void ThingPanel::addFlag(QGridLayout& grid, int fold, const char* objectName, const QString& name, ThingValue of) {
  auto* box = new QCheckBox;
  box->setObjectName(objectName);
  box->setAccessibleName(name);
  connect(box, &QCheckBox::clicked, this, [this, name, objectName, set = std::move(of.set)](bool on) {
    edit(name, objectName, set, on ? 1 : 0);
    work_.seal();
  });
  addRow(grid, fold, name, box, [box, get = std::move(of.get)](const Scene& scene, const Thing* thing) {
    const auto value = get(scene, thing);
    if (value) box->setChecked(*value > 0.5);
    return value.has_value();
  });
}

void ThingPanel::addColour(QGridLayout& grid, int fold, const char* objectName, const QString& name,
                           Rgb Clothes::*colour) {
  auto* button = new QPushButton;
  button->setObjectName(objectName);
  button->setAccessibleName(name);
  button->setFixedSize(44, 22);
  connect(button, &QPushButton::clicked, this, [this, name, objectName, colour] {
    const Person* person = personOf(work_.selectedThing());
    if (person == nullptr) return;
    const std::string id = work_.selected();
    const QColor chosen = QColorDialog::getColor(toQColor(person->clothes.*colour), this, name);
    if (!chosen.isValid()) return;
    work_.edit(name + " on the stage", [&](Scene& scene) {
      for (Thing& thing : scene.things)
        if (Person* now = personOf(&thing); now != nullptr && thing.id == id) now->clothes.*colour = fromQColor(chosen);
    });
  });
  addRow(grid, fold, name, button, [button, colour](const Scene&, const Thing* thing) {
    const Person* person = personOf(thing);
    if (person != nullptr)
      setOwnSheet(*button, QString("background: %1; border: 1px solid %2; border-radius: 4px")
                               .arg(toQColor(person->clothes.*colour).name(), theme().line.name()));
    return person != nullptr;
  });
}

void ThingPanel::addPlace(QVBoxLayout& column) {
  auto* grid = new QGridLayout;
  grid->setSpacing(3);
  grid->setColumnStretch(0, 1);
  constexpr Limits metres{0.01, 200, 1, 0.05, 2, "m"};
  struct Side {
    const char* id;
    const char* name;
  };
  int side = 0;
  for (const Side& each : {Side{"thing across", "Across"}, {"thing high", "High"}, {"thing deep", "Deep"}}) {
    addNumber(*grid, -1, each.id, each.name, metres,
              valueOf<Prop>([side](auto& prop) -> auto& { return prop.size[side]; }));
    ++side;
  }
  addNumber(*grid, -1, "thing turn", "Turn", {-180, 180, 0, 1, 0, "°"},
            {[](const Scene&, const Thing* thing) -> std::optional<double> {
               return thing != nullptr ? std::optional(static_cast<double>(std::remainder(thing->place.turn, 360.0f)))
                                       : std::nullopt;
             },
             [](Scene&, Thing* thing, double value) {
               if (thing != nullptr) thing->place.turn = static_cast<float>(value);
             }});
  addNumber(*grid, -1, "thing raised", "Above the ground", {-20, 100, 0, 0.05, 2, "m"},
            {[](const Scene&, const Thing* thing) -> std::optional<double> {
               return thing != nullptr ? std::optional(static_cast<double>(thing->place.at.y())) : std::nullopt;
             },
             [](Scene&, Thing* thing, double value) {
               if (thing != nullptr) thing->place.at.y() = static_cast<float>(value);
             }});
  addShown(*grid);
  column.addLayout(grid);
}

void ThingPanel::addShown(QGridLayout& grid) {
  auto* box = new QComboBox;
  box->setObjectName("panel shows");
  box->setAccessibleName("What the panel shows");
  box->setToolTip("A reference of this study. The panel keeps it, whatever becomes of the reference");
  box->setFixedWidth(fieldWidth + 28);
  connect(box, &QComboBox::activated, this, [this, box](int index) {
    // The first is what it shows now.
    if (index > 0) work_.showOnPanel(box->itemData(index).toString().toStdString());
    work_.seal();
    refresh();
  });
  addRow(grid, -1, "Shows", box, [this, box](const Scene&, const Thing* thing) {
    const Prop* panel = thing != nullptr ? std::get_if<Prop>(&thing->is) : nullptr;
    if (panel == nullptr || panel->form != Prop::Form::panel) return false;
    box->clear();
    const bool shows = panel->picture != nullptr;
    box->addItem(!shows                 ? QString("Nothing")
                 : panel->shows.empty() ? QString("A picture")
                                        : QString::fromStdString(panel->shows));
    for (const Reference& reference : work_.study().references)
      box->addItem(QString::fromStdString(std::filesystem::path(reference.name).stem().string()),
                   QString::fromStdString(reference.id));
    if (shows) box->addItem("Nothing", QString());
    return true;
  });
}

void ThingPanel::addBuild(QVBoxLayout& column) {
  int fold = 0;
  auto* grid = section(column, "Build", fold);
  QStringList kept{"As it is"};
  for (const auto& each : stage::houseBuilds()) kept << each.name;
  addChoice(*grid, fold, "kept build", "Kept builds", kept,
            {[](const Scene&, const Thing* thing) -> std::optional<double> {
               if (personOf(thing) == nullptr) return {};
               return 0;
             },
             [](Scene&, Thing* thing, double index) {
               Person* person = personOf(thing);
               const auto builds = stage::houseBuilds();
               if (person == nullptr || index < 1 || index > static_cast<double>(builds.size())) return;
               const auto& taken = builds[static_cast<std::size_t>(index) - 1];
               person->build = taken.build;
               person->size = taken.size;
             }});
  addNumber(*grid, fold, "figure size", "Size", {0.1, 5, 1.7, 0.02, 2, "m"},
            {[](const Scene&, const Thing* thing) -> std::optional<double> {
               if (const Person* person = personOf(thing)) return static_cast<double>(person->size);
               if (const auto* beast = thing != nullptr ? std::get_if<Beast>(&thing->is) : nullptr)
                 return static_cast<double>(beast->size);
               return {};
             },
             [](Scene&, Thing* thing, double value) {
               if (Person* person = personOf(thing)) person->size = std::clamp(static_cast<float>(value), 0.2f, 4.0f);
               if (auto* beast = thing != nullptr ? std::get_if<Beast>(&thing->is) : nullptr)
                 beast->size = static_cast<float>(value);
             }});
  struct BuildField {
    const char* id;
    const char* name;
    float Build::*value;
    Limits limits;
  };
  for (const BuildField& each : {BuildField{"child", "Child", &Build::child, {0, 1, 0, 0.05, 2}},
                                 {"girth", "Girth", &Build::girth, {0.5, 2, 1, 0.02, 2}},
                                 {"shoulders", "Shoulders", &Build::shoulders, {0.6, 1.6, 1, 0.02, 2}},
                                 {"hips", "Hips", &Build::hips, {0.6, 1.8, 1, 0.02, 2}},
                                 {"limbs", "Limbs", &Build::limbs, {0.75, 1.25, 1, 0.02, 2}},
                                 {"muscle", "Muscle", &Build::muscle, {0, 1, 0, 0.05, 2}},
                                 {"belly", "Belly", &Build::belly, {0, 1, 0, 0.05, 2}},
                                 {"bust", "Bust", &Build::bust, {0, 1, 0, 0.05, 2}},
                                 {"head", "Head", &Build::head, {0.6, 1.8, 1, 0.02, 2}}})
    addNumber(*grid, fold, each.id, each.name, each.limits,
              valueOf<Person>([value = each.value](auto& person) -> auto& { return person.build.*value; }));
  struct AnimalField {
    const char* id;
    const char* name;
    float stage::AnimalBuild::*value;
  };
  using stage::AnimalBuild;
  for (const AnimalField& each : {AnimalField{"animal girth", "Girth", &AnimalBuild::girth},
                                  {"animal legs", "Legs", &AnimalBuild::legs},
                                  {"animal neck", "Neck", &AnimalBuild::neck},
                                  {"animal head", "Head", &AnimalBuild::head},
                                  {"animal muzzle", "Muzzle", &AnimalBuild::muzzle},
                                  {"animal tail", "Tail", &AnimalBuild::tail}})
    addNumber(*grid, fold, each.id, each.name, {0.5, 2, 1, 0.02, 2},
              valueOf<Beast>([value = each.value](auto& beast) -> auto& { return beast.build.*value; }));
}

void ThingPanel::addHands(QVBoxLayout& column) {
  int fold = 0;
  auto* grid = section(column, "Hands", fold);
  QStringList gripNames;
  for (int i = 0; i < stage::grips; ++i) gripNames << stage::nameOf(static_cast<stage::Grip>(i));
  const QStringList heldNames{"Nothing", "Staff", "Blade", "Bag", "Parasol", "Box", "Ball", "Torch"};
  struct Side {
    const char *grip, *bend, *held, *name;
    stage::Hand Person::*hand;
    stage::Held Clothes::*holds;
  };
  for (const Side& side :
       {Side{"left grip", "left wrist bend", "left holds", "Left", &Person::left, &Clothes::left},
        {"right grip", "right wrist bend", "right holds", "Right", &Person::right, &Clothes::right}}) {
    addChoice(*grid, fold, side.grip, QString("%1 hand").arg(side.name), gripNames,
              valueOf<Person>([side](auto& person) -> auto& { return (person.*side.hand).grip; }));
    addNumber(*grid, fold, side.bend, QString("%1 wrist").arg(side.name),
              {stage::leastWristBend, stage::mostWristBend, 0, 1, 0, "°"},
              valueOf<Person>([side](auto& person) -> auto& { return (person.*side.hand).bend; }));
    addChoice(*grid, fold, side.held, "Holds", heldNames,
              valueOf<Person>([side](auto& person) -> auto& { return person.clothes.*side.holds; }));
  }
}

void ThingPanel::addClothes(QVBoxLayout& column) {
  int fold = 0;
  auto* grid = section(column, "Clothes", fold);
  addChoice(*grid, fold, "hair", "Hair", {"None", "Cropped", "Round", "Long", "Bun", "Tail", "Full"},
            valueOf<Person>([](auto& person) -> auto& { return person.clothes.hairStyle; }));
  addChoice(*grid, fold, "hat", "Hat", {"None", "Brimmed", "Cap", "Cone", "Hood", "Helmet", "Band"},
            valueOf<Person>([](auto& person) -> auto& { return person.clothes.headgear; }));
  struct Length {
    const char* id;
    const char* name;
    float Clothes::*value;
  };
  for (const Length& each : {Length{"sleeves", "Sleeves", &Clothes::sleeves},
                             {"wide sleeves", "Wide sleeves", &Clothes::sleeveFlare},
                             {"trousers", "Trousers", &Clothes::trousers},
                             {"wide legs", "Wide legs", &Clothes::legFlare},
                             {"skirt", "Skirt", &Clothes::skirtLength},
                             {"wide skirt", "Wide skirt", &Clothes::skirtFlare},
                             {"cloak", "Cloak", &Clothes::cloakLength},
                             {"loose", "Loose", &Clothes::loose}})
    addNumber(*grid, fold, each.id, each.name, {0, 1, 0, 0.05, 2},
              valueOf<Person>([value = each.value](auto& person) -> auto& { return person.clothes.*value; }));
  struct Flag {
    const char* id;
    const char* name;
    bool Clothes::*value;
  };
  for (const Flag& each : {Flag{"beard", "Beard", &Clothes::beard},
                           {"belt", "Belt", &Clothes::belt},
                           {"scarf", "Scarf", &Clothes::scarf},
                           {"pack", "Pack", &Clothes::pack}})
    addFlag(*grid, fold, each.id, each.name,
            valueOf<Person>([value = each.value](auto& person) -> auto& { return person.clothes.*value; }));
  struct Colour {
    const char* id;
    const char* name;
    Rgb Clothes::*value;
  };
  for (const Colour& each : {Colour{"skin colour", "Skin", &Clothes::skin},
                             {"hair colour", "Hair colour", &Clothes::hair},
                             {"top colour", "Top", &Clothes::top},
                             {"legs colour", "Trousers colour", &Clothes::legs},
                             {"skirt colour", "Skirt colour", &Clothes::skirt},
                             {"cloak colour", "Cloak colour", &Clothes::cloak},
                             {"hat colour", "Hat colour", &Clothes::hat}})
    addColour(*grid, fold, each.id, each.name, each.value);
}

void ThingPanel::addEye(QVBoxLayout& column) {
  column.addSpacing(4);
  column.addWidget(titleLabel("Eye"));
  auto* grid = new QGridLayout;
  grid->setSpacing(3);
  grid->setColumnStretch(0, 1);
  const auto ofEye = [](auto access) {
    return ThingValue{
        [access](const Scene& s, const Thing*) { return std::optional(static_cast<double>(access(s.eye))); },
        [access](Scene& s, Thing*, double value) { access(s.eye) = static_cast<float>(value); }};
  };
  addNumber(*grid, -1, "lens", "Lens", {14, 200, 38, 1, 0, "mm"},
            ofEye([](auto& eye) -> auto& { return eye.millimetres; }));
  addNumber(*grid, -1, "eye height", "Height", {0.05, 100, 1.4, 0.05, 2, "m"},
            ofEye([](auto& eye) -> auto& { return eye.at.y(); }));
  addNumber(*grid, -1, "eye tilt", "Tilt", {-89, 89, 0, 1, 0, "°"}, ofEye([](auto& eye) -> auto& { return eye.tilt; }));
  addNumber(*grid, -1, "eye roll", "Roll", {-180, 180, 0, 1, 0, "°"},
            ofEye([](auto& eye) -> auto& { return eye.roll; }));
  column.addLayout(grid);
}

void ThingPanel::fillTurns(const Thing* thing) {
  const auto joint = table_.chosenJoint();
  const bool any = thing != nullptr && stage::isFigure(*thing) && joint.has_value();
  const std::string now = any ? thing->id + " " + std::to_string(*joint) : std::string();
  if (now != turnsOf_) {
    turnsOf_ = now;
    for (const TurnField& each : turnFields_) {
      each.name->deleteLater();
      each.field->deleteLater();
    }
    turnFields_.clear();
    if (any) {
      const auto& skeleton = stage::skeletonOf(*thing);
      const auto& of = skeleton.joints[*joint];
      for (std::size_t t = of.firstTurn; t < of.firstTurn + of.turns; ++t) {
        const auto& turn = skeleton.turns[t];
        const QString name = QString::fromStdString(turn.id.substr(turn.id.find('.') + 1));
        auto* label = noteLabel(name.left(1).toUpper() + name.mid(1));
        auto* field = new ScrubField;
        field->setObjectName("turn " + name);
        field->setAccessibleName(name);
        field->setUp(turn.least, turn.most, 1, 0, 0, "°");
        field->setFixedWidth(fieldWidth);
        connect(field, &ScrubField::edited, this, [this, t, name](double value) {
          work_.editSelected(
              "Turn a joint",
              [&](Thing& each) {
                auto angles = stage::anglesOf(each);
                angles[t] = value;
                stage::setAngles(each, std::move(angles));
              },
              "stage turn " + std::to_string(t));
        });
        connect(field, &ScrubField::finished, this, [this, field] {
          work_.seal();
          // Whoever came from the stage to type goes back there.
          if (std::exchange(typing_, false)) table_.setFocus();
        });
        const int row = static_cast<int>(t - of.firstTurn);
        turns_->addWidget(label, row, 0);
        turns_->addWidget(field, row, 1, Qt::AlignRight);
        turnFields_.push_back({label, field, t});
      }
    }
  }
  if (!any) return;
  const auto angles = stage::anglesOf(*thing);
  for (const TurnField& each : turnFields_) each.field->showValue(angles[each.turn]);
}

void ThingPanel::typeDegrees() {
  if (turnFields_.empty()) return;
  turnFields_.front().field->setFocus(Qt::TabFocusReason);
  turnFields_.front().field->selectAll();
  typing_ = true;
}

void ThingPanel::refresh() {
  const Scene& scene = work_.scene();
  const Thing* thing = work_.selectedThing();
  filling_ = true;
  // Rows stay while they name the same things: an entry that is being typed is not taken away.
  bool same = things_->count() == static_cast<int>(scene.things.size());
  for (int i = 0; same && i < things_->count(); ++i)
    same = things_->item(i)->data(thingRole).toString().toStdString() == scene.things[static_cast<std::size_t>(i)].id;
  if (!same) things_->clear();
  for (std::size_t i = 0; i < scene.things.size(); ++i) {
    const Thing& each = scene.things[i];
    auto* item = same ? things_->item(static_cast<int>(i)) : new QListWidgetItem(things_);
    item->setText(QString::fromStdString(stage::calledOf(each)));
    item->setFlags(item->flags() | Qt::ItemIsUserCheckable | Qt::ItemIsEditable);
    item->setCheckState(each.hidden ? Qt::Unchecked : Qt::Checked);
    item->setData(thingRole, QString::fromStdString(each.id));
    QStringList tips;
    if (each.locked) tips << "locked";
    if (!each.group.empty()) tips << "moves together with others";
    if (each.gaze.on) tips << "looks at something";
    if (!each.pins.empty()) tips << "is held";
    item->setToolTip(tips.join(", "));
    if (each.id == work_.selected()) things_->setCurrentItem(item);
  }
  if (thing == nullptr) things_->setCurrentItem(nullptr);
  chosen_->setText(thing != nullptr ? QString::fromStdString(thing->name) : QString());
  chosen_->setVisible(thing != nullptr);
  menu_->setVisible(thing != nullptr);
  joint_->setText(table_.jointSentence());
  joint_->setVisible(!joint_->text().isEmpty());
  fillTurns(thing);
  std::vector<bool> any(folds_.size(), false);
  for (const Field& each : fields_) {
    const bool has = each.show(scene, thing);
    if (each.fold >= 0 && has) any[static_cast<std::size_t>(each.fold)] = true;
    each.name->setVisible(has);
    each.edit->setVisible(has);
  }
  for (std::size_t i = 0; i < folds_.size(); ++i) {
    folds_[i].head->setVisible(any[i]);
    folds_[i].body->setVisible(any[i] && folds_[i].head->isChecked());
  }
  filling_ = false;
}

}  // namespace hscaffold::app
