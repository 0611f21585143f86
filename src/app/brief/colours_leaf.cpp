#include "app/brief/colours_leaf.h"

#include <QColorDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/images.h"
#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/image/colour.h"

namespace hscaffold::app {
namespace {

constexpr QSize swatchSize{46, 34};

/// As many pixels as a palette is taken from.
Image<Rgb> linearOf(const QImage& picture) {
  return toLinear(fromQImage(picture.scaled(256, 256, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
}

}  // namespace

ColoursLeaf::ColoursLeaf(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(6);
  about_ = noteLabel("No colours are wanted: the words alone choose them.");
  about_->setWordWrap(true);
  column->addWidget(about_);
  row_ = new QHBoxLayout;
  row_->setSpacing(5);
  row_->addStretch(1);
  column->addLayout(row_);
  const auto button = [](const char* name, const QString& text, const QString& tip) {
    auto* made = new QPushButton(text);
    made->setObjectName(name);
    made->setToolTip(tip);
    return made;
  };
  fromReference_ = button("colours from reference", "Reference", "A palette of the selected reference");
  fromProof_ = button("colours from proof", "Proof", "A palette of the shown proof");
  fromStart_ = button("colours from start", "Mood", "A palette of the start picture");
  clear_ = button("clear colours", "Clear", "No colours are wanted");
  clear_->setProperty("role", "link");
  count_ = new ScrubField;
  count_->setObjectName("colour count");
  count_->setAccessibleName("Number of colours");
  count_->setToolTip("How many colours are taken");
  count_->setUp({static_cast<double>(mood::leastColours), static_cast<double>(mood::mostColours),
                 static_cast<double>(mood::usualColours), 1, 0});
  count_->setFixedWidth(44);
  count_->showValue(static_cast<double>(mood::usualColours));
  auto* offers = new QHBoxLayout;
  offers->setSpacing(5);
  offers->addWidget(noteLabel("Take from"));
  for (QPushButton* each : {fromReference_, fromProof_, fromStart_}) offers->addWidget(each);
  offers->addWidget(count_);
  offers->addWidget(clear_);
  offers->addStretch(1);
  column->addLayout(offers);
  column->addStretch(1);

  connect(fromReference_, &QPushButton::clicked, this, [this] {
    if (const Reference* reference = desk_.document.state().selectedReference())
      takeFrom("Colours of a reference", desk_.maps.referenceImage(reference->id));
  });
  connect(fromProof_, &QPushButton::clicked, this, [this] {
    if (const ProofInfo* proof = desk_.proofs.current())
      takeFrom("Colours of a proof", desk_.proofs.thumbnail(proof->number));
  });
  connect(fromStart_, &QPushButton::clicked, this, [this] {
    const StartPicture& start = desk_.document.state().brief.start;
    QImage picture;
    if (start.from == StartPicture::From::reference) picture = desk_.maps.referenceImage(start.reference);
    if (start.from == StartPicture::From::proof) picture = desk_.proofs.thumbnail(start.proof);
    if (start.from == StartPicture::From::guide)
      if (const MapPicture* map = desk_.maps.mapOf(start.guide)) picture = map->grey;
    takeFrom("Colours of the mood", picture);
  });
  connect(clear_, &QPushButton::clicked, this,
          [this] { change("No wanted colours", [](Colours& colours) { colours.clear(); }); });
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.brief || changes.looking || changes.references) refresh();
  });
  connect(&desk_.proofs, &ProofShelf::changed, this, &ColoursLeaf::refresh);
  refresh();
}

void ColoursLeaf::change(const QString& name, const std::function<void(Colours&)>& edit) {
  desk_.document.change(name, [&](StudyState& s) { edit(s.brief.colours); });
}

void ColoursLeaf::takeFrom(const QString& what, const QImage& picture) {
  if (picture.isNull()) return;
  const auto taken = mood::paletteOf(linearOf(picture), static_cast<std::size_t>(std::lround(count_->value())),
                                     desk_.document.state().brief.colours);
  change(what, [&](Colours& colours) { colours = taken; });
}

void ColoursLeaf::addSwatch() {
  const std::size_t index = swatches_.size();
  Swatch made{new QToolButton, new QToolButton};
  made.colour->setObjectName(QString("wanted colour %1").arg(index + 1));
  made.colour->setAutoRaise(true);
  made.colour->setIconSize(swatchSize);
  made.colour->setContextMenuPolicy(Qt::CustomContextMenu);
  made.lock->setObjectName(QString("lock colour %1").arg(index + 1));
  made.lock->setCheckable(true);
  made.lock->setAccessibleName(QString("Keep colour %1").arg(index + 1));
  connect(made.colour, &QToolButton::clicked, this, [this, index] { editAt(index); });
  connect(made.colour, &QWidget::customContextMenuRequested, this,
          [this, index, of = made.colour](const QPoint& at) { showMenu(index, of->mapToGlobal(at)); });
  connect(made.lock, &QToolButton::clicked, this, [this, index](bool locked) {
    change(locked ? "Keep a colour" : "Let a colour go", [&](Colours& colours) {
      if (index < colours.size()) colours[index].locked = locked;
    });
  });
  auto* both = new QVBoxLayout;
  both->setSpacing(2);
  both->addWidget(made.colour, 0, Qt::AlignHCenter);
  both->addWidget(made.lock, 0, Qt::AlignHCenter);
  row_->insertLayout(row_->count() - 1, both);
  swatches_.push_back(made);
}

void ColoursLeaf::editAt(std::size_t index) {
  const Colours& now = desk_.document.state().brief.colours;
  if (index >= now.size()) return;
  const QColor picked = QColorDialog::getColor(toQColor(now[index].colour), this, "A wanted colour");
  if (!picked.isValid()) return;
  change("Change a wanted colour", [&](Colours& colours) {
    if (index < colours.size()) colours[index].colour = fromQColor(picked);
  });
}

void ColoursLeaf::showMenu(std::size_t index, QPoint at) {
  QMenu* menu = newMenu(*this);
  menu->addAction("Change...", this, [this, index] { editAt(index); });
  menu->addAction("Add one like it", this,
                  [this, index] {
                    change("Add a wanted colour", [&](Colours& colours) {
                      if (index < colours.size() && colours.size() < mood::mostColours)
                        colours.insert(colours.begin() + static_cast<std::ptrdiff_t>(index), colours[index]);
                    });
                  })
      ->setEnabled(desk_.document.state().brief.colours.size() < mood::mostColours);
  menu->addAction("Take out", this, [this, index] {
    change("Take a wanted colour out", [&](Colours& colours) {
      if (index < colours.size()) colours.erase(colours.begin() + static_cast<std::ptrdiff_t>(index));
    });
  });
  menu->popup(at);
}

void ColoursLeaf::refresh() {
  const StudyState& state = desk_.document.state();
  const Colours& colours = state.brief.colours;
  while (swatches_.size() < colours.size()) addSwatch();
  for (std::size_t i = 0; i < swatches_.size(); ++i) {
    const bool there = i < colours.size();
    swatches_[i].colour->setVisible(there);
    swatches_[i].lock->setVisible(there);
    if (!there) continue;
    const QColor colour = toQColor(colours[i].colour);
    QPixmap patch(swatchSize);
    patch.fill(colour);
    swatches_[i].colour->setIcon(QIcon(patch));
    swatches_[i].colour->setAccessibleName(QString("Wanted colour %1, %2").arg(i + 1).arg(colour.name()));
    swatches_[i].colour->setToolTip(colour.name() + ": click changes it, right click for more");
    swatches_[i].lock->setChecked(colours[i].locked);
    setIcon(*swatches_[i].lock, colours[i].locked ? "lock" : "unlock");
    swatches_[i].lock->setToolTip(colours[i].locked ? "Stays when a palette is taken from another picture"
                                                    : "Goes when a palette is taken from another picture");
  }
  about_->setVisible(colours.empty());
  clear_->setVisible(!colours.empty());
  fromReference_->setEnabled(state.selectedReference() != nullptr);
  fromProof_->setEnabled(desk_.proofs.current() != nullptr);
  fromStart_->setEnabled(state.brief.start.given() && state.brief.start.from != StartPicture::From::colour);
}

}  // namespace hscaffold::app
