#include "app/bench/tuning_panel.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSignalBlocker>
#include <QSlider>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/threshold_histogram.h"
#include "core/detail/detail.h"
#include "core/kinds.h"
#include "core/strokes/drawing.h"

namespace hscaffold::app {

TuningPanel::TuningPanel(Desk& desk, std::string guide, QWidget* parent)
    : QWidget(parent), desk_(desk), guide_(std::move(guide)) {
  const Guide* g = desk_.document.state().guide(guide_);
  const Kind& kind = kindOf(g->kind);
  auto* grid = new QGridLayout(this);
  grid->setContentsMargins(0, 4, 0, 0);
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(3);
  grid->setColumnStretch(1, 1);
  int row = 0;
  found_ = new QLabel;
  found_->setProperty("role", "note");
  found_->setFont(textFont(9));
  found_->setWordWrap(true);
  grid->addWidget(found_, row++, 0, 1, 3);
  found_->hide();
  const bool thresholds =
      std::any_of(kind.fields->begin(), kind.fields->end(), [](const TuningField& f) { return f.id == "thresholds"; });
  for (const TuningField& field : *kind.fields) {
    // Thresholds and cuts have the histogram; their numbers stand above it.
    if ((thresholds && (field.id == "low" || field.id == "high")) || field.id == "near-cut" || field.id == "coarsest")
      continue;
    auto* name = new QLabel(QString::fromStdString(field.label));
    name->setProperty("role", "note");
    name->setFont(textFont(9));
    name->setToolTip(QString::fromStdString(field.help));
    if (!field.choices.empty()) {
      auto* choice = new QComboBox;
      for (const auto& word : field.choices) choice->addItem(QString::fromStdString(word));
      // Words may be cut where the column is narrow; the column is never made broader by them.
      choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
      choice->setMinimumContentsLength(6);
      choice->setToolTip(QString::fromStdString(field.help));
      choice->setAccessibleName(QString::fromStdString(field.label));
      choice->setFont(textFont(9));
      connect(choice, &QComboBox::activated, this, [this, &field](int index) { set(field, index, false); });
      grid->addWidget(name, row, 0);
      grid->addWidget(choice, row++, 1, 1, 2);
      rows_.push_back([this, &field, name, choice, &kind](const Guide& now, bool any) {
        const QSignalBlocker quiet(choice);
        const bool shown = any && isShown(*kind.fields, field, effective(now));
        name->setVisible(shown);
        choice->setVisible(shown);
        choice->setCurrentIndex(static_cast<int>(std::lround(valueOf(*kind.fields, now.tuning, field.id))));
      });
      if (field.id == "thresholds") {
        thresholds_ = new QLabel;
        thresholds_->setFont(textFont(9));
        thresholds_->setAlignment(Qt::AlignRight);
        histogram_ = new ThresholdHistogram(kindColour(kind.id));
        grid->addWidget(thresholds_, row++, 0, 1, 3);
        grid->addWidget(histogram_, row++, 0, 1, 3);
        connect(histogram_, &ThresholdHistogram::dragged, this, [this](double low, double high) {
          desk_.document.change(
              "Thresholds of " + QString::fromStdString(desk_.document.state().guide(guide_)->name),
              [&](StudyState& s) {
                auto& tuning = s.guide(guide_)->tuning;
                tuning["thresholds"] = 1;
                tuning["low"] = low;
                tuning["high"] = high;
              },
              "thresholds " + guide_);
        });
        connect(histogram_, &ThresholdHistogram::released, this, [this] { desk_.document.seal(); });
      }
      continue;
    }
    if (field.text) {
      auto* text = new QLineEdit;
      text->setMaxLength(static_cast<int>(field.text->most));
      text->setToolTip(QString::fromStdString(field.help));
      text->setAccessibleName(QString::fromStdString(field.label));
      text->setFont(textFont(9));
      grid->addWidget(name, row, 0);
      grid->addWidget(text, row++, 1, 1, 2);
      connect(text, &QLineEdit::textEdited, this,
              [this, &field](const QString& now) { set(field, now.toStdString(), true); });
      connect(text, &QLineEdit::editingFinished, this, [this] { desk_.document.seal(); });
      rows_.push_back([this, &field, name, text, &kind](const Guide& now, bool any) {
        const bool shown = any && isShown(*kind.fields, field, effective(now));
        name->setVisible(shown);
        text->setVisible(shown);
        const QString wording = QString::fromStdString(wordingOf(*kind.fields, now.tuning, field.id));
        // The caret stays where it is while it is typed in.
        if (text->text() != wording) text->setText(wording);
      });
      continue;
    }
    if (field.id == "far-cut" || field.id == "finest") {
      const bool scales = field.id == "finest";
      grid->addWidget(name, row, 0);
      name->setText(scales ? "Scales" : "Cuts");
      name->setToolTip(scales ? "What each scale of the picture holds, from the finest to the whole; what lies between "
                                "the handles is kept"
                              : "What is farther than the left handle becomes black, what is nearer than the right one "
                                "white");
      thresholds_ = new QLabel;
      thresholds_->setFont(textFont(9));
      thresholds_->setAlignment(Qt::AlignRight);
      grid->addWidget(thresholds_, row++, 1, 1, 2);
      histogram_ = new ThresholdHistogram(kindColour(kind.id), ThresholdHistogram::Scale::even);
      grid->addWidget(histogram_, row++, 0, 1, 3);
      connect(histogram_, &ThresholdHistogram::dragged, this, [this, scales](double far, double near) {
        const QString of = QString::fromStdString(desk_.document.state().guide(guide_)->name);
        if (scales) {
          desk_.document.change(
              "Scales of " + of,
              [&](StudyState& s) {
                auto& tuning = s.guide(guide_)->tuning;
                for (const auto& [id, place] : {std::pair{"finest", far}, std::pair{"coarsest", near}}) {
                  const TuningField& each = fieldNamed(detail::detailTuningFields(), id);
                  tuning[id] = std::clamp(detail::percentAt(place), each.minimum, each.maximum);
                }
              },
              "scales " + guide_);
          return;
        }
        desk_.document.change(
            "Cuts of " + of,
            [&](StudyState& s) {
              auto& tuning = s.guide(guide_)->tuning;
              tuning["far-cut"] = std::clamp(far, 0.0, 1.0);
              tuning["near-cut"] = std::clamp(near, 0.0, 1.0);
            },
            "cuts " + guide_);
      });
      connect(histogram_, &ThresholdHistogram::released, this, [this] { desk_.document.seal(); });
      continue;
    }
    auto* slider = new QSlider(Qt::Horizontal);
    const int ticks = static_cast<int>(std::lround((field.maximum - field.minimum) / field.step));
    slider->setRange(0, ticks);
    slider->setAccessibleName(QString::fromStdString(field.label));
    slider->setToolTip(QString::fromStdString(field.help));
    auto* number = new ScrubField;
    number->setProperty("role", "bare");
    number->setUp(field.minimum, field.maximum, field.step, field.decimals, field.defaultValue,
                  QString::fromStdString(field.unit));
    number->setFont(textFont(9));
    number->setFixedWidth(58);
    number->setAccessibleName(QString::fromStdString(field.label));
    grid->addWidget(name, row, 0);
    grid->addWidget(slider, row, 1);
    grid->addWidget(number, row++, 2);
    connect(slider, &QSlider::valueChanged, this,
            [this, &field](int tick) { set(field, field.minimum + tick * field.step, true); });
    connect(slider, &QSlider::sliderReleased, this, [this] { desk_.document.seal(); });
    connect(number, &ScrubField::edited, this, [this, &field](double value) { set(field, value, true); });
    connect(number, &ScrubField::finished, this, [this] { desk_.document.seal(); });
    rows_.push_back([this, &field, name, slider, number, &kind](const Guide& now, bool any) {
      const bool shown = any && isShown(*kind.fields, field, effective(now));
      name->setVisible(shown);
      slider->setVisible(shown);
      number->setVisible(shown);
      const double value = valueOf(*kind.fields, now.tuning, field.id);
      const QSignalBlocker quiet(slider);
      slider->setValue(static_cast<int>(std::lround((value - field.minimum) / field.step)));
      number->showValue(value);
    });
  }
}

/// Whether the guide is nothing but its own strokes.
bool TuningPanel::ownStrokes(const Guide& guide) const {
  if (!guide.work.has(drawingSlot)) return false;
  try {
    return desk_.document.work().get<Drawing>(drawingForm(), guide.work.in(drawingSlot))->alone;
  } catch (const Problem&) {
    return false;  // missing: the extraction is shown
  }
}

/// The tuning with what automatic choices came to in their place.
Tuning TuningPanel::effective(const Guide& guide) const {
  Tuning tuning = guide.tuning;
  if (const MapPicture* map = desk_.maps.mapOf(guide_))
    for (const auto& [id, value] : map->resolved)
      if (valueOf(*kindOf(guide.kind).fields, guide.tuning, id) == 0) tuning[id] = value;
  return tuning;
}

void TuningPanel::showFindings() {
  const MapPicture* map = desk_.maps.mapOf(guide_);
  QStringList all;
  if (map != nullptr && !map->found.isEmpty()) all << map->found;
  if (const Guide* guide = desk_.document.state().guide(guide_)) {
    if (guide->work.has(retouchSlot)) all << (guide->retouchHidden ? "retouch hidden" : "retouched");
    if (guide->limited()) all << "in a region";
  }
  const QString found = all.join("; ");
  const QString note = map != nullptr ? map->note : QString();
  found_->setText(note.isEmpty() ? found : found + (found.isEmpty() ? "" : ". ") + note);
  setOwnSheet(*found_, note.isEmpty() ? QString() : QString("color: %1").arg(theme().doubt.name()));
  found_->setVisible(!found_->text().isEmpty());
}

void TuningPanel::set(const TuningField& field, const TuningValue& value, bool live) {
  const Guide* guide = desk_.document.state().guide(guide_);
  if (guide == nullptr) return;
  desk_.document.change(
      QString("%1 of %2").arg(QString::fromStdString(field.label), QString::fromStdString(guide->name)),
      [&](StudyState& s) {
        auto& tuning = s.guide(guide_)->tuning;
        tuning[field.id] = value;
        // Leaving the automatic thresholds starts from what they were.
        const MapPicture* map = desk_.maps.mapOf(guide_);
        if (field.id == "thresholds" && value.number() == 1 && map != nullptr && !map->thresholds.histogram.empty()) {
          tuning["low"] = map->thresholds.low;
          tuning["high"] = map->thresholds.high;
        }
        if (field.id == "thresholds" && value.number() == 2) {
          tuning["low"] = 0.85;
          tuning["high"] = 0.95;
        }
      },
      live ? "tuning " + guide_ + field.id : std::string());
}

void TuningPanel::refresh() {
  if (isHidden()) return;
  const Guide* guide = desk_.document.state().guide(guide_);
  if (guide == nullptr) return;
  // Strokes that stand alone are drawn as they are; loose lines are loosened still.
  const bool strokesAlone = guide->kind == "lines" && ownStrokes(*guide);
  for (const auto& row : rows_) row(*guide, !strokesAlone);
  showFindings();
}

void TuningPanel::refreshMap() {
  showFindings();
  const MapPicture* map = desk_.maps.mapOf(guide_);
  if (histogram_ == nullptr || map == nullptr) return;
  histogram_->show(map->thresholds);
  if (const Guide* guide = desk_.document.state().guide(guide_); guide != nullptr && guide->kind == "detail") {
    const auto tuning = detail::detailTuningFrom(guide->tuning);
    const auto said = [](double percent) { return QString::number(percent, 'f', percent < 3 ? 1 : 0); };
    thresholds_->setText(tuning.finest <= 0 && tuning.coarsest >= 100 ? "all"
                         : tuning.coarsest >= 100 ? QString("larger than %1 %").arg(said(tuning.finest))
                         : tuning.finest <= 0     ? QString("smaller than %1 %").arg(said(tuning.coarsest))
                                              : QString("%1 - %2 %").arg(said(tuning.finest), said(tuning.coarsest)));
    return;
  }
  const int decimals = histogram_->scale() == ThresholdHistogram::Scale::even ? 2 : 3;
  thresholds_->setText(
      QString("%1 - %2").arg(map->thresholds.low, 0, 'f', decimals).arg(map->thresholds.high, 0, 'f', decimals));
}

}  // namespace hscaffold::app
