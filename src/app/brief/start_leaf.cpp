#include "app/brief/start_leaf.h"

#include <QCheckBox>
#include <QColorDialog>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSlider>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/brief/start_placer.h"
#include "app/images.h"
#include "app/theme/theme.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/image/colour.h"
#include "core/kinds.h"
#include "core/tone/light_table.h"

namespace hscaffold::app {
namespace {

using From = StartPicture::From;
constexpr QSize pictureSize{138, 92};
/// Behind the fits of a placement; what was moved by hand comes after it.
constexpr int asReferenceLies = 3;

}  // namespace

ChangeBar::ChangeBar(QWidget* parent) : QWidget(parent) {
  setFixedHeight(16);
  setMinimumWidth(120);
}

void ChangeBar::show(double change, int steps) {
  change_ = change;
  steps_ = steps;
  const auto old = static_cast<int>(std::lround((1 - change) * steps));
  setAccessibleName(QString("%1 of %2 steps come from the start picture").arg(old).arg(steps));
  setToolTip(accessibleName());
  update();
}

void ChangeBar::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const double left = (1 - change_) * steps_, width = static_cast<double>(this->width()) / steps_;
  for (int i = 0; i < steps_; ++i) {
    const QRectF step(i * width, 0, std::max(1.0, width - (width > 4 ? 2 : 1)), height());
    painter.fillRect(step, theme().accent);
    // A step that is only partly left shows it.
    const double old = std::clamp(left - i, 0.0, 1.0);
    painter.fillRect(QRectF(step.left(), 0, step.width() * old, height()), kindColour("tone"));
  }
}

StartLeaf::StartLeaf(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  offers_ = new QWidget;
  auto* offers = new QVBoxLayout(offers_);
  offers->setContentsMargins(0, 4, 0, 0);
  offers->setSpacing(6);
  auto* about = noteLabel(
      "Without a start picture the steps begin with noise. With one, what settles in the first steps is kept from it.");
  about->setWordWrap(true);
  offers->addWidget(about);
  fromReference_ =
      namedButton("start from reference", "The reference", "The selected reference, as it lies in the frame");
  fromProof_ = namedButton("start from proof", "The proof", "Take the shown proof further");
  auto* colour = namedButton("start from colour", "A colour...", "One colour all over");
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  fromGuide_ = namedButton("start from guide", "The light table",
                           "What the selected tone guide shows: painted light and colours");
  for (QPushButton* offer : {fromReference_, fromProof_, fromGuide_, colour}) row->addWidget(offer);
  row->addStretch(1);
  offers->addLayout(row);
  offers->addStretch(1);

  given_ = new QWidget;
  auto* given = new QHBoxLayout(given_);
  given->setContentsMargins(0, 0, 0, 0);
  given->setSpacing(14);
  auto* left = new QVBoxLayout;
  left->setSpacing(3);
  picture_ = new StartPlacer;
  picture_->setObjectName("start picture");
  picture_->setFixedSize(pictureSize);
  connect(picture_, &StartPlacer::placed, this, [this](const QString& how, const Placement& placement) {
    change(
        how, [&](StartPicture& s) { s.placement = placement; }, "place start " + how.toStdString());
  });
  connect(picture_, &StartPlacer::letGo, this, [this] { desk_.document.seal(); });
  caption_ = noteLabel();
  caption_->setFixedWidth(pictureSize.width());
  auto* away = namedButton("take start away", "Take away", "Begin with noise again", "link");
  left->addWidget(picture_);
  left->addWidget(caption_);
  left->addStretch(1);
  given->addLayout(left);
  auto* right = new QVBoxLayout;
  right->setSpacing(5);
  auto* amount = new QHBoxLayout;
  slider_ = new QSlider(Qt::Horizontal);
  slider_->setRange(0, 100);
  slider_->setAccessibleName("Change amount");
  change_ = new ScrubField;
  change_->setObjectName("change amount");
  change_->setUp(0, 1, 0.05, 2, StartPicture{}.change);
  change_->setAccessibleName("Change amount");
  change_->setToolTip("How far the picture may be left: 0 is the picture itself, 1 none of it");
  change_->setFixedWidth(64);
  amount->addWidget(noteLabel("Change amount"));
  amount->addWidget(slider_, 1);
  amount->addWidget(change_);
  change_->offerStrip();
  connect(change_, &ScrubField::stripAsked, this, [this] { emit desk_.stripAsked({Setting::change, "", {}, {}}); });
  right->addLayout(amount);
  bar_ = new ChangeBar;
  right->addWidget(bar_);
  auto* legend = new QHBoxLayout;
  legend->addWidget(noteLabel("from the start picture"));
  legend->addStretch(1);
  legend->addWidget(noteLabel("made anew"));
  right->addLayout(legend);
  mood_ = new QCheckBox("Mood only: colours and light");
  mood_->setObjectName("mood only");
  right->addWidget(mood_);
  moodRow_ = new QWidget;
  auto* moodRow = new QHBoxLayout(moodRow_);
  moodRow->setContentsMargins(0, 0, 0, 0);
  moodRow->setSpacing(5);
  blur_ = new ScrubField;
  blur_->setObjectName("mood blur");
  blur_->setUp(mood::limits::blur);
  blur_->setAccessibleName("Blur of the mood");
  blur_->setToolTip("How far its colours flow, against the longer side");
  blur_->setFixedWidth(64);
  sorting_ = new QComboBox;
  sorting_->setObjectName("mood sorting");
  sorting_->addItems({"as it lies", "sorted by light", "sorted by colour", "sorted by depth"});
  sorting_->setAccessibleName("Where its colours go");
  sorting_->setToolTip(
      "Where its colours go: where they lie in it; into the layout of the first guide's reference, dark to dark and "
      "light "
      "to light or colour to colour; or from its upper part to what is far, by the first depth guide");
  moodRow->addWidget(noteLabel("Blur"));
  moodRow->addWidget(blur_);
  moodRow->addSpacing(6);
  moodRow->addWidget(sorting_);
  moodRow->addStretch(1);
  right->addWidget(moodRow_);
  auto* place = new QHBoxLayout;
  fit_ = new QComboBox;
  fit_->setObjectName("start fit");
  fit_->addItems({"cover", "contain", "stretch", "as the reference lies", "by hand"});
  fit_->setAccessibleName("How the start picture lies in the frame");
  fit_->setToolTip("How it lies in the frame");
  place->addWidget(fit_);
  place->addWidget(away);
  place->addStretch(1);
  right->addLayout(place);
  right->addStretch(1);
  given->addLayout(right, 1);

  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(offers_);
  column->addWidget(given_);

  connect(fromReference_, &QPushButton::clicked, this, &StartLeaf::takeReference);
  connect(fromProof_, &QPushButton::clicked, this, &StartLeaf::takeProof);
  connect(colour, &QPushButton::clicked, this, &StartLeaf::takeColour);
  connect(away, &QPushButton::clicked, this,
          [this] { change("Take start picture away", [](StartPicture& s) { s = {}; }); });
  const auto setAmount = [this](double value) {
    change(
        "Change amount", [value](StartPicture& s) { s.change = value; }, "change");
  };
  connect(slider_, &QSlider::valueChanged, this, [setAmount](int value) { setAmount(value / 100.0); });
  connect(slider_, &QSlider::sliderReleased, this, [this] { desk_.document.seal(); });
  connect(change_, &ScrubField::edited, this, setAmount);
  connect(change_, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  connect(fromGuide_, &QPushButton::clicked, this, &StartLeaf::takeGuide);
  connect(mood_, &QCheckBox::clicked, this, &StartLeaf::setMood);
  connect(blur_, &ScrubField::edited, this, [this](double value) {
    change(
        "Blur of the mood", [value](StartPicture& s) { s.mood.blur = value; }, "mood blur");
  });
  connect(blur_, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  connect(sorting_, &QComboBox::activated, this, [this](int index) {
    change("Where colours of the mood go",
           [&](StartPicture& s) { s.mood.sorting = static_cast<mood::Sorting>(index); });
  });
  connect(fit_, &QComboBox::activated, this, [this](int index) {
    const Reference* reference = desk_.document.state().reference(desk_.document.state().brief.start.reference);
    const Size own = sizeOf(desk_.document.state().brief.start), frame = desk_.document.state().frame;
    change("Place start picture", [&](StartPicture& s) {
      if (index > asReferenceLies && own.area() > 0) s.placement = resolved(s.placement, own, frame);
      if (index == asReferenceLies && reference != nullptr)
        s.placement = reference->placement;
      else if (index >= asReferenceLies)  // from where it lies now
        s.placement.fit = Fit::free;
      else
        s.placement.fit = static_cast<Fit>(std::min(index, 2));
    });
  });
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.brief || changes.looking || changes.references || changes.guideList || changes.frame) refresh();
  });
  connect(&desk_.document, &StudyDocument::replaced, this, &StartLeaf::refreshPicture);
  connect(&desk_.maps, &MapRoom::picturesChanged, this, &StartLeaf::refreshPicture);
  connect(&desk_.maps, &MapRoom::mapChanged, this, [this](const QString& guide) {
    if (shown_.from == From::guide && guide.toStdString() == shown_.guide) refreshPicture();
  });
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, &StartLeaf::refreshPicture);
  connect(&themeSignals(), &ThemeSignals::changed, bar_, qOverload<>(&QWidget::update));
  refresh();
}

void StartLeaf::change(const QString& name, const std::function<void(StartPicture&)>& edit, const std::string& merge) {
  desk_.document.change(
      name, [&](StudyState& s) { edit(s.brief.start); }, merge);
}

void StartLeaf::takeReference() {
  const Reference* reference = desk_.document.state().selectedReference();
  if (reference == nullptr) return;
  change("Start from a reference", [&](StartPicture& s) {
    s.from = From::reference;
    s.reference = reference->id;
    s.placement = reference->placement;
  });
}

void StartLeaf::takeProof() {
  const ProofInfo* proof = desk_.proofs.current();
  if (proof == nullptr) return;
  change("Start from a proof", [&](StartPicture& s) {
    s.from = From::proof;
    s.proof = proof->number;
    s.placement = {};
  });
}

void StartLeaf::takeColour() {
  const QColor picked = QColorDialog::getColor(QColor(128, 128, 128), this, "Start from a colour");
  if (!picked.isValid()) return;
  change("Start from a colour", [&](StartPicture& s) {
    s.from = From::colour;
    s.colour = fromQColor(picked);
  });
}

void StartLeaf::takeGuide() {
  const Guide* guide = desk_.document.state().selectedGuide();
  if (guide == nullptr) return;
  change("Start from what a guide shows", [&](StartPicture& s) {
    s.from = From::guide;
    s.guide = guide->id;
    s.placement = {};
  });
}

void StartLeaf::setMood(bool on) {
  change(on ? "Only the mood" : "The whole start picture", [on](StartPicture& s) {
    s.moodOnly = on;
    // Begun as a mood usually is; what was set already stays.
    if (on && s.mood == StartPicture{}.mood) s.mood.blur = mood::MoodTuning{}.blur;
    constexpr double usual = 0.35;
    if (on && s.change == StartPicture{}.change) s.change = usual;
  });
}

QImage StartLeaf::picture(const StartPicture& start) const {
  switch (start.from) {
    case From::nothing:
    case From::below:
      break;
    case From::guide: {
      const MapPicture* map = desk_.maps.mapOf(start.guide);
      return map != nullptr ? map->grey : QImage();
    }
    case From::reference:
      // As it is shown anyway: the picture itself may have a hundred megapixels.
      return desk_.maps.referenceImage(start.reference);
    case From::proof:
      return desk_.proofs.thumbnail(start.proof);
    case From::colour: {
      QImage image(30, 20, QImage::Format_RGB32);
      image.fill(toQColor(start.colour));
      return image;
    }
  }
  return {};
}

void StartLeaf::refreshPicture() {
  shown_ = desk_.document.state().brief.start;
  shownIn_ = desk_.document.state().frame;
  picture_->show(picture(shown_), sizeOf(shown_), shown_.placement, desk_.document.state().frame);
}

Size StartLeaf::sizeOf(const StartPicture& start) const {
  if (start.from == From::reference)
    if (const Reference* reference = desk_.document.state().reference(start.reference)) return reference->size;
  if (start.from == From::proof)
    if (const ProofInfo* proof = desk_.proofs.proof(start.proof)) return proof->recipe.frame;
  return {};
}

void StartLeaf::refresh() {
  const StudyState& state = desk_.document.state();
  const StartPicture& start = state.brief.start;
  offers_->setVisible(!start.given());
  given_->setVisible(start.given());
  fromReference_->setEnabled(state.selectedReference() != nullptr);
  fromProof_->setEnabled(desk_.proofs.current() != nullptr);
  const Guide* guide = state.selectedGuide();
  fromGuide_->setEnabled(guide != nullptr && guide->on && kindOf(guide->kind).hasSlot(light::lightSlot));
  if (!start.given()) return;
  // It is not made again at every letter of the prompt.
  if (start.from != shown_.from || start.reference != shown_.reference || start.proof != shown_.proof ||
      start.guide != shown_.guide || start.colour != shown_.colour || start.placement != shown_.placement ||
      state.frame != shownIn_)
    refreshPicture();
  const Reference* reference = state.reference(start.reference);
  caption_->setText(
      start.from == From::proof    ? QString("proof %1").arg(start.proof)
      : start.from == From::colour ? QString("one colour")
      : start.from == From::guide
          ? QString::fromStdString(state.guide(start.guide) != nullptr ? state.guide(start.guide)->name : "taken out")
      : reference != nullptr ? QString::fromStdString(reference->name)
                             : QString("taken out"));
  {
    const QSignalBlocker quiet(slider_);
    slider_->setValue(static_cast<int>(std::lround(100 * start.change)));
  }
  change_->showValue(start.change);
  bar_->show(start.change, state.brief.steps);
  mood_->setChecked(start.moodOnly);
  moodRow_->setVisible(start.moodOnly);
  blur_->showValue(start.mood.blur);
  {
    const QSignalBlocker quiet(sorting_);
    sorting_->setCurrentIndex(static_cast<int>(start.mood.sorting));
  }
  const QSignalBlocker quiet(fit_);
  const bool asReference = reference != nullptr && start.placement == reference->placement &&
                           start.placement != Placement{.fit = start.placement.fit};
  fit_->setCurrentIndex(asReference                        ? asReferenceLies
                        : start.placement.fit == Fit::free ? asReferenceLies + 1
                                                           : static_cast<int>(start.placement.fit));
  fit_->setVisible(start.from != From::colour && start.from != From::guide);
}

}  // namespace hscaffold::app
