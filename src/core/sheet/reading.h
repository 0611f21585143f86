/// What a test strip says: one sentence drawn from its measured cells, its evidence, and how far it can be trusted.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/sheet/sheet.h"

namespace hscaffold {

struct MeasuredCell {
  int cell = 0;
  double hold = 0;   ///< [0, 100], mean over the guides
  double shift = 0;  ///< [0, 100]
};

struct SheetReading {
  std::string sentence;
  std::string doubt;           ///< what it rests on and how sure it is
  std::optional<int> advised;  ///< a cell whose settings are worth having
  std::string button;          ///< "Set weight 0.90, range end 45 %"; empty without an advised cell
  std::vector<int> evidence;   ///< cells that the sentence is about
};

/// How far hold differs by chance, as other proofs of the same settings say.
struct KnownChance {
  double spread = 0;  ///< standard deviation over seeds
  std::string where;  ///< "Sheet 4"
};
/// Standard deviation of hold; none from fewer than three cells.
std::optional<double> spreadOf(const std::vector<MeasuredCell>& cells);

/// Over seeds, hold and shift of each setting are averaged, and their spread says what a difference must come to before
/// it means anything. Advised is the setting with the largest shift among those whose hold is as good as the best,
/// within that spread. Fewer than three settings, or differences within the spread, give a sentence that says so. A
/// strip of seeds says how much is chance.
/// @param known  taken where the sheet has one seed only
SheetReading readingOf(const SheetPlan& plan, const std::vector<MeasuredCell>& cells,
                       const std::optional<KnownChance>& known = {});

/// Cells from which no other has both more hold and more shift, by rising shift.
std::vector<int> bestTradeOffs(const std::vector<MeasuredCell>& cells);

}  // namespace hscaffold
