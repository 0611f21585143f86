/// The tuning of one guide, made from its kind's description: a row for each field, and a histogram where the kind has
/// thresholds.
#pragma once

#include <QWidget>
#include <functional>

#include "app/desk.h"

class QLabel;

namespace hscaffold::app {

class ThresholdHistogram;

class TuningPanel : public QWidget {
  Q_OBJECT
 public:
  TuningPanel(Desk& desk, std::string guide, QWidget* parent = nullptr);
  void refresh();
  void refreshMap();
  [[nodiscard]] ThresholdHistogram* histogram() { return histogram_; }

 private:
  void set(const TuningField& field, const TuningValue& value, bool live);
  void showFindings();
  [[nodiscard]] bool ownStrokes(const Guide& guide) const;
  [[nodiscard]] Tuning effective(const Guide& guide) const;

  Desk& desk_;
  std::string guide_;
  ThresholdHistogram* histogram_ = nullptr;
  QLabel *thresholds_ = nullptr, *found_ = nullptr;
  std::vector<std::function<void(const Guide&, bool any)>> rows_;
};

}  // namespace hscaffold::app
