#include "app/bench/light_panel.h"

#include <QAction>
#include <QCheckBox>
#include <QGridLayout>
#include <QListWidget>
#include <QSignalBlocker>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/hue_wheel.h"
#include "app/widgets/light_dial.h"
#include "app/widgets/menus.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"

namespace hscaffold::app {

using light::Light;
using light::LightTable;

LightPanel::LightPanel(Desk& desk, std::string guide, QWidget* parent)
    : QWidget(parent), desk_(desk), guide_(std::move(guide)), work_(desk.workbench.light) {
  setObjectName("light table");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(4);
  heading_ = noteLabel("On the light table");
  heading_->setWordWrap(true);
  column->addWidget(heading_);
  makeList();
  column->addWidget(list_);

  auto* colours = new QHBoxLayout;
  wheel_ = new HueWheel;
  wheel_->setObjectName("hue wheel");
  wheel_->setAccessibleName("Hues");
  colours->addWidget(wheel_, 0, Qt::AlignTop);
  auto* beside = new QVBoxLayout;
  beside->setSpacing(3);
  colourOf_ = noteLabel();
  colourOf_->setWordWrap(true);
  beside->addWidget(colourOf_);
  hued_ = new QCheckBox("Colour");
  hued_->setObjectName("hued");
  hued_->setFont(textFont(9));
  beside->addWidget(hued_);
  amountName_ = noteLabel();
  amountSlider_ = new QSlider(Qt::Horizontal);
  amountSlider_->setRange(0, 100);
  amountSlider_->setMinimumWidth(30);
  amount_ = new ScrubField;
  amount_->setObjectName("light amount");
  amount_->setProperty("role", "bare");
  amount_->setFont(textFont(9));
  amount_->setFixedWidth(46);
  amount_->setUp({0, 100, 100, 1, 0, "%"});
  auto* amountRow = new QHBoxLayout;
  amountRow->setSpacing(4);
  amountRow->addWidget(amountSlider_, 1);
  amountRow->addWidget(amount_);
  beside->addWidget(amountName_);
  beside->addLayout(amountRow);
  beside->addStretch(1);
  colours->addLayout(beside, 1);
  column->addLayout(colours);

  auto* from = new QHBoxLayout;
  dial_ = new LightDial;
  dial_->setObjectName("light dial");
  dial_->setAccessibleName("Where the light comes from");
  from->addWidget(dial_, 0, Qt::AlignTop);
  auto* fromText = new QVBoxLayout;
  fromText->setSpacing(3);
  comesFrom_ = noteLabel();
  comesFrom_->setWordWrap(true);
  relight_ = new QSlider(Qt::Horizontal);
  relight_->setObjectName("relight");
  relight_->setAccessibleName("Relight");
  relight_->setToolTip("How much the picture is lit anew from there, by how near things are");
  relight_->setRange(0, 100);
  reliefSays_ = noteLabel();
  reliefSays_->setWordWrap(true);
  relief_ = new QToolButton;
  relief_->setObjectName("take relief");
  relief_->setProperty("role", "link");
  relief_->setFont(textFont(9, QFont::DemiBold));
  fromText->addWidget(comesFrom_);
  fromText->addWidget(relight_);
  fromText->addWidget(reliefSays_);
  fromText->addWidget(relief_, 0, Qt::AlignLeft);
  from->addLayout(fromText, 1);
  column->addLayout(from);

  connect(hued_, &QCheckBox::clicked, this, &LightPanel::setHued);
  connect(wheel_, &HueWheel::edited, this, &LightPanel::setHues);
  connect(wheel_, &HueWheel::finished, this, [this] { work_.seal(); });
  connect(amountSlider_, &QSlider::valueChanged, this, [this](int value) { setAmount(value / 100.0); });
  connect(amountSlider_, &QSlider::sliderReleased, this, [this] { work_.seal(); });
  connect(amount_, &ScrubField::edited, this, [this](double value) { setAmount(value / 100); });
  connect(amount_, &ScrubField::finished, this, [this] { work_.seal(); });
  connect(dial_, &LightDial::edited, this, [this](double angle, double height) {
    work_.edit(
        "Where the light comes from",
        [&](LightTable& t) {
          t.from = angle;
          t.height = height;
          // Turning the light is meant to be seen.
          if (t.relight <= 0 && work_.hasRelief()) t.relight = 0.7;
        },
        "light from ");
    comesFrom_->setText("Light comes from " + wordsForLight(angle, height));
  });
  connect(dial_, &LightDial::finished, this, [this] { work_.seal(); });
  connect(relight_, &QSlider::valueChanged, this, [this](int value) {
    if (!filling_)
      work_.edit(
          "Relight", [&](LightTable& t) { t.relight = value / 100.0; }, "relight ");
  });
  connect(relight_, &QSlider::sliderReleased, this, [this] { work_.seal(); });
  connect(relief_, &QToolButton::clicked, this, [this] {
    if (work_.hasRelief())
      work_.dropRelief();
    else
      work_.takeRelief();
  });
  connect(&work_, &LightWork::changed, this, &LightPanel::refresh);
  refresh();
}

void LightPanel::makeList() {
  list_ = new QListWidget;
  list_->setObjectName("lights");
  list_->setAccessibleName("On the light table");
  list_->setFont(textFont(9));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
  list_->setToolTip(
      "The uppermost first. The box hides, a double click (F2) names, Del takes away, Page Up and Page "
      "Down change the order");
  list_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
    if (filling_) return;
    work_.select(row < 0 ? std::nullopt : std::optional(static_cast<std::size_t>(list_->count() - 1 - row)));
  });
  connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (filling_) return;
    const auto which = static_cast<std::size_t>(list_->count() - 1 - list_->row(item));
    const bool hidden = item->checkState() == Qt::Unchecked;
    const std::string name = item->text().trimmed().toStdString();
    work_.edit(hidden ? "Hide on the light table" : "Change on the light table", [&](LightTable& t) {
      if (which >= t.lights.size()) return;
      t.lights[which].hidden = hidden;
      if (!name.empty() && QString::fromStdString(name) != nameOf(t.lights[which])) t.lights[which].name = name;
    });
  });
  const auto action = [this](const QString& name, const QKeySequence& key, const std::function<void()>& call) {
    auto* made = new QAction(name, list_);
    made->setShortcut(key);
    made->setShortcutContext(Qt::WidgetShortcut);
    connect(made, &QAction::triggered, this, call);
    list_->addAction(made);
    return made;
  };
  action("Take away", QKeySequence::Delete, [this] { work_.removeSelected(); });
  action("Bring up", Qt::Key_PageUp, [this] { work_.moveSelected(1); });
  action("Push down", Qt::Key_PageDown, [this] { work_.moveSelected(-1); });
  action("Duplicate", Qt::CTRL | Qt::Key_D, [this] { work_.duplicateSelected(); });
  connect(list_, &QWidget::customContextMenuRequested, this, [this](const QPoint& at) {
    if (list_->itemAt(at) == nullptr) return;
    QMenu* menu = newMenu(*this);
    menu->addActions(list_->actions());
    menu->popup(list_->viewport()->mapToGlobal(at));
  });
}

void LightPanel::fillList(const LightTable& table) {
  filling_ = true;
  const auto count = static_cast<int>(table.lights.size());
  while (list_->count() > count) delete list_->takeItem(list_->count() - 1);
  while (list_->count() < count) list_->addItem(new QListWidgetItem);
  for (int row = 0; row < count; ++row) {
    const Light& each = table.lights[static_cast<std::size_t>(count - 1 - row)];
    QListWidgetItem* item = list_->item(row);
    const QString name = nameOf(each);
    if (item->text() != name) item->setText(name);
    item->setToolTip(sayingOf(each));
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable | Qt::ItemIsEditable);
    item->setCheckState(each.hidden ? Qt::Unchecked : Qt::Checked);
  }
  const auto selected = work_.selected();
  list_->setCurrentRow(selected ? count - 1 - static_cast<int>(*selected) : -1);
  constexpr int most = 5;
  const int line = count > 0 ? list_->sizeHintForRow(0) : 0;
  list_->setFixedHeight(std::min(count, most) * line + 4);
  list_->setVisible(count > 0);
  filling_ = false;
}

void LightPanel::showColours(const LightTable& table) {
  const Light* of = work_.selectedLight();
  filling_ = true;
  hued_->setVisible(of != nullptr);
  if (of != nullptr) {
    colourOf_->setText(nameOf(*of) + ": " + sayingOf(*of));
    hued_->setChecked(of->hue || of->endHue);
    std::vector<light::Hue> hues;
    if (of->hue || of->endHue) hues.push_back(of->hue.value_or(light::Hue{0, 60}));
    if (of->form == Light::Form::straight && !hues.empty()) hues.push_back(of->endHue.value_or(light::Hue{0, 240}));
    wheel_->show(hues, {"Where it begins", "Where it ends"});
    amountName_->setText("opacity");
  } else {
    colourOf_->setText("Colour in light and in shadow");
    wheel_->show({table.inLight, table.inShadow}, {"In light", "In shadow"});
    amountName_->setText("how much");
  }
  const double amount = 100 * (of != nullptr ? of->opacity : table.tint);
  amountSlider_->setValue(static_cast<int>(std::lround(amount)));
  amountSlider_->setAccessibleName(of != nullptr ? "Opacity" : "Tint");
  amount_->setAccessibleName(amountSlider_->accessibleName());
  amount_->showValue(amount);
  filling_ = false;
}

void LightPanel::refresh() {
  if (isHidden() || desk_.document.state().looking.guide != guide_ || !work_.takesLight()) return;
  const LightTable table = work_.table();
  heading_->setText(table.lights.empty()
                        ? "On the light table: nothing yet. Paint shadow (S) or light (H), drag a fall "
                          "of light (F), a lamp (O), rays (Y)."
                        : "On the light table");
  fillList(table);
  showColours(table);
  dial_->show(table.from, table.height);
  comesFrom_->setText("Light comes from " + wordsForLight(table.from, table.height));
  const bool relief = work_.hasRelief();
  filling_ = true;
  relight_->setEnabled(relief);
  relight_->setValue(static_cast<int>(std::lround(100 * table.relight)));
  filling_ = false;
  reliefSays_->setText(relief ? "by " + work_.reliefName() : "Needs to know what is near.");
  relief_->setText(relief ? "Forget that" : "Take it from depth");
  relief_->setToolTip(relief ? "The light does not follow what is near any more"
                             : "How near things are, from a depth guide of this study; a guess if there is none");
  relief_->setEnabled(relief || work_.canTakeRelief());
}

void LightPanel::setHued(bool hued) {
  work_.changeSelected(hued ? "Colour of light" : "Light without colour",
                       [&](Light& each) {
                         each.hue.reset();
                         each.endHue.reset();
                         if (!hued) return;
                         each.hue = light::Hue{0.09, each.light < 0 ? 250.0 : 70.0};
                         if (each.form == Light::Form::straight) each.endHue = light::Hue{0.09, 250};
                       },
                       {});
}

void LightPanel::setHues(const std::vector<light::Hue>& hues) {
  if (work_.selected()) {
    work_.changeSelected(
        "Colour of light",
        [&](Light& each) {
          if (!hues.empty()) each.hue = hues[0];
          if (hues.size() > 1) each.endHue = hues[1];
        },
        "light hue ");
    if (!hues.empty()) work_.next.hue = hues[0];
    return;
  }
  work_.edit(
      "Colour in light and shadow",
      [&](LightTable& t) {
        if (hues.size() == 2) {
          t.inLight = hues[0];
          t.inShadow = hues[1];
        }
        // A hue that is chosen is meant to be seen.
        if (t.tint <= 0) t.tint = 0.6;
      },
      "light tint ");
}

void LightPanel::setAmount(double amount) {
  if (filling_) return;
  if (work_.selected())
    work_.changeSelected(
        "Opacity of light", [&](Light& each) { each.opacity = amount; }, "light opacity ");
  else
    work_.edit(
        "Colour in light and shadow", [&](LightTable& t) { t.tint = amount; }, "light tint ");
}

}  // namespace hscaffold::app
