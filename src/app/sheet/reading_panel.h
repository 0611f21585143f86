/// What the sheet says, in words: the sentence of a strip or of a search, what it rests on, and what can be done with
/// it.
#pragma once

#include <QFrame>
#include <set>

#include "app/sheet/sheet_model.h"
#include "core/find/findings.h"

class QLabel;
class QPushButton;

namespace hscaffold::app {

class EffectCurves;

class ReadingPanel : public QFrame {
  Q_OBJECT
 public:
  ReadingPanel(Desk& desk, SheetModel& model, QWidget* parent = nullptr);
  /// Of a strip; empty for a search.
  [[nodiscard]] const SheetReading& reading() const { return reading_; }
  /// Proofs that a search proposes, the best first.
  [[nodiscard]] const std::vector<std::int64_t>& proposed() const { return proposed_; }
  void read();

 signals:
  void restsOn(const std::set<std::int64_t>& proofs);  ///< what is said now
  void nextProposalAsked();

 private:
  void readSearch(const SheetInfo& sheet);
  void showFindings(const SheetInfo& sheet, const Findings& findings, const std::vector<Tried>& tried);
  void readSizes(const SheetInfo* sheet);
  [[nodiscard]] std::optional<KnownChance> chanceKnownFor(const SheetInfo& sheet) const;
  void setAdvised();
  void pullOverSeeds();

  Desk& desk_;
  SheetModel& model_;
  QLabel *sentence_, *doubt_, *sizes_;
  EffectCurves* curves_;
  QPushButton *set_, *again_, *next_, *stop_, *trial_;
  SheetReading reading_;
  std::int64_t searchRead_ = 0;         ///< the search whose findings are shown; 0: none
  std::vector<std::int64_t> proposed_;  ///< proofs that a search proposes, the best first
};

}  // namespace hscaffold::app
