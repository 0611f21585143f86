// The lines over the two tables: placing, before and paper; what is shown of proofs and of depth maps.
#include <QColorDialog>
#include <QComboBox>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSlider>
#include <QToolButton>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/bench/bench_view.h"
#include "app/images.h"
#include "app/theme/icons.h"
#include "core/image/colour.h"

namespace hscaffold::app {

QWidget* BenchView::sourceHead() {
  QHBoxLayout* row = nullptr;
  QWidget* head = headOf(row);
  row->addWidget(titleLabel("Source"));
  row->addSpacing(6);
  place_ = new QPushButton("Place");
  place_->setObjectName("place");
  place_->setCheckable(true);
  place_->setToolTip("Move, scale and turn the reference in the frame (double-click the table, Esc to end)");
  connect(place_, &QPushButton::clicked, &bench_, &Workbench::setPlacing);
  row->addWidget(place_);
  before_ = new QPushButton("Before");
  before_->setObjectName("before");
  before_->setCheckable(true);
  before_->setToolTip("The map without retouch and region (Ctrl+B)");
  before_->setShortcut(QKeySequence("Ctrl+B"));
  connect(before_, &QPushButton::toggled, source_, &SourceTable::setBefore);
  row->addWidget(before_);
  paper_ = new QPushButton("Paper");
  paper_->setObjectName("paper");
  paper_->setCheckable(true);
  paper_->setToolTip("Lines black on white where the map is seen alone; otherwise as the engine gets them (Ctrl+4)");
  paper_->setShortcut(QKeySequence("Ctrl+4"));
  connect(paper_, &QPushButton::toggled, source_, [this](bool on) {
    source_->setPaper(on);
    if (on && ghost_->value() < 75) ghost_->setValue(100);
  });
  row->addWidget(paper_);

  placingTools_ = panel();
  placingTools_->setFixedHeight(34);
  auto* tools = new QHBoxLayout(placingTools_);
  tools->setContentsMargins(12, 3, 12, 3);
  tools->setSpacing(4);
  const auto placement = [this](const QString& name,
                                const std::function<void(Placement&, const Reference&, Size)>& edit) {
    const std::string id = desk_.document.state().looking.reference;
    if (desk_.document.state().reference(id) == nullptr) return;
    desk_.document.change(name, [&](StudyState& s) {
      Reference& reference = *s.reference(id);
      edit(reference.placement, reference, s.frame);
    });
  };
  for (const auto& [name, fit] :
       {std::pair{"Cover", Fit::cover}, {"Contain", Fit::contain}, {"Stretch", Fit::stretch}}) {
    auto* button = new QPushButton(name);
    button->setObjectName(QString(name).toLower());
    connect(button, &QPushButton::clicked, this, [placement, name = QString(name), fit = fit] {
      placement(name + " the frame", [&](Placement& p, const Reference&, Size) { p.fit = fit; });
    });
    tools->addWidget(button);
  }
  const auto tool = [&](const char* iconName, const QString& tip, const std::function<void(Placement&)>& edit) {
    auto* button = new QToolButton;
    button->setObjectName(iconName);
    setIcon(*button, iconName);
    button->setToolTip(tip);
    button->setAccessibleName(tip);
    connect(button, &QToolButton::clicked, this,
            [placement, tip, edit] { placement(tip, [&](Placement& p, const Reference&, Size) { edit(p); }); });
    tools->addWidget(button);
  };
  tool("turn", "Turn by 90 degrees", [](Placement& p) { p.turn = std::remainder(p.turn + 90, 360.0); });
  tool("flip-across", "Flip across", [](Placement& p) { p.flipAcross = !p.flipAcross; });
  tool("flip-down", "Flip down", [](Placement& p) { p.flipDown = !p.flipDown; });
  auto* fill = new QComboBox;
  fill->addItems({"fill: edge", "fill: mirror", "fill: blur", "fill: colour"});
  fill->setToolTip("What is where the reference does not reach");
  fill->setAccessibleName("Fill of the rest");
  connect(fill, &QComboBox::activated, this, [this, placement](int index) {
    Rgb colour{1, 1, 1};
    if (index == 3) {
      const QColor picked = QColorDialog::getColor(Qt::white, this, "Fill colour");
      if (!picked.isValid()) return;
      colour = fromQColor(picked);
    }
    placement("Fill of the rest", [&](Placement& p, const Reference&, Size) {
      p.fill = static_cast<Fill>(index);
      if (p.fill == Fill::colour) p.fillColour = colour;
    });
  });
  connect(&desk_.document, &StudyDocument::changed, fill, [this, fill](const Changes& changes) {
    if (!changes.references && !changes.looking) return;
    const QSignalBlocker quiet(fill);
    if (const Reference* r = desk_.document.state().selectedReference())
      fill->setCurrentIndex(static_cast<int>(r->placement.fill));
  });
  tools->addWidget(fill);
  auto* reset = new QPushButton("Reset");
  reset->setObjectName("reset placement");
  connect(reset, &QPushButton::clicked, this,
          [placement] { placement("Reset placement", [](Placement& p, const Reference&, Size) { p = {}; }); });
  tools->addWidget(reset);
  tools->addStretch(1);
  placingTools_->hide();
  row->addStretch(1);

  ghostName_ = new QLabel("Ghost");
  ghostName_->setProperty("role", "note");
  ghost_ = new QSlider(Qt::Horizontal);
  ghost_->setRange(0, 100);
  ghost_->setValue(50);
  ghost_->setFixedWidth(96);
  ghost_->setAccessibleName("Ghost");
  ghost_->setToolTip("Left: the reference alone. Right: the map alone.");
  connect(ghost_, &QSlider::valueChanged, this, [this](int value) { source_->setGhost(value / 100.0); });
  row->addWidget(ghostName_);
  row->addWidget(ghost_);
  connect(&bench_, &Workbench::placingChanged, this, [this](bool placing) {
    if (placing) {
      // Tools act on the reference that is being looked at.
      const Guide* guide = bench_.guide();
      if (guide != nullptr && desk_.document.state().reference(guide->reference) != nullptr && !left_->underMouse())
        desk_.document.look([of = guide->reference](Looking& looking) { looking.reference = of; });
    }
    showTools();
    refresh();
  });
  return head;
}

QWidget* BenchView::proofHead() {
  QHBoxLayout* row = nullptr;
  QWidget* head = headOf(row);
  proofTitle_ = titleLabel("Proof");
  row->addWidget(proofTitle_);
  row->addSpacing(6);
  const auto toggle = [&](const QString& name, const QString& tip, const QString& keys, auto&& handler) {
    auto* button = new QPushButton(name);
    button->setObjectName(name.toLower());
    button->setCheckable(true);
    button->setToolTip(tip + " (" + keys + ")");
    button->setShortcut(QKeySequence(keys));
    connect(button, &QPushButton::toggled, proof_, handler);
    row->addWidget(button);
    proofLooks_.push_back(button);
  };
  toggle("Marks", "The guides' lines over the proof", "Ctrl+1", &ProofTable::setMarks);
  toggle("Misses", "Where the layout was lost", "Ctrl+2", &ProofTable::setMisses);
  toggle("Wipe", "Drag the reference over the proof", "Ctrl+3", &ProofTable::setWipe);
  toggle("Squint", "The proof small and blurred, as from afar", "Ctrl+7", &ProofTable::setSquint);
  row->addStretch(1);
  addDepthLooks(*row);
  return head;
}

/// One button that puts the map in the proof's place; then the ways to look at it stand where the proof's were.
void BenchView::addDepthLooks(QHBoxLayout& row) {
  const auto add = [&](const QString& name, const QString& tip, const QString& keys) {
    auto* button = new QPushButton(name);
    button->setObjectName("depth " + name.toLower());
    button->setCheckable(true);
    button->setToolTip(tip + " (" + keys + ")");
    button->setShortcut(QKeySequence(keys));
    row.addWidget(button);
    return button;
  };
  const std::pair<const char*, const char*> looks[] = {
      {"Relief", "The depth map as a surface: drag or arrow keys to turn it, double-click: straight on"},
      {"Grey", "The depth map as engines get it"},
      {"Colours", "The depth map in colours, to read small differences; engines do not get these"},
      {"Doubt", "Where the depth map is unsure: the stronger the colour, the less sure"}};
  int key = 1;
  for (const auto& [name, tip] : looks) {
    const auto look = static_cast<DepthTable::Look>(key - 1);
    depthLooks_.push_back(add(name, tip, QString("Ctrl+%1").arg(key++)));
    connect(depthLooks_.back(), &QPushButton::clicked, this, [this, look] { showDepth(look); });
  }
  contours_ = add("Contours", "Lines of equal depth, every tenth", "Ctrl+6");
  connect(contours_, &QPushButton::toggled, depth_, &DepthTable::setContours);
  depthShown_ = add("Depth", "The depth map in the proof's place, and back", "Ctrl+5");
  connect(depthShown_, &QPushButton::clicked, this,
          [this](bool on) { showDepth(on ? std::optional(depth_->look()) : std::nullopt); });
}

void BenchView::showDepth(std::optional<DepthTable::Look> look) {
  const bool focused = proof_->hasFocus() || depth_->hasFocus();
  if (look) depth_->setLook(*look);
  proofTitle_->setText(look ? "Depth map" : "Proof");
  depthShown_->setText(look ? "Proof" : "Depth");
  depthShown_->setShortcut(QKeySequence("Ctrl+5"));  // a new text takes it away
  depthShown_->setChecked(look.has_value());
  for (QPushButton* button : proofLooks_) button->setVisible(!look);
  for (std::size_t i = 0; i < depthLooks_.size(); ++i) {
    depthLooks_[i]->setVisible(look.has_value());
    depthLooks_[i]->setChecked(look && i == static_cast<std::size_t>(*look));
  }
  contours_->setVisible(look.has_value());
  contours_->setEnabled(look && *look != DepthTable::Look::relief);
  depth_->setVisible(look.has_value());
  proof_->setVisible(!look.has_value());
  if (focused) (look ? static_cast<QWidget*>(depth_) : proof_)->setFocus();
}

}  // namespace hscaffold::app
