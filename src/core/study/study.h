/// The study: everything the artist works on, as plain values. `StudyFile` keeps it on disk, `StudyDocument` in src/app
/// shows it; all changes go through `StudyHistory` (history.h).
#pragma once

#include <map>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/brief/brief.h"
#include "core/brief/recipe.h"
#include "core/finish/final.h"
#include "core/frame/placement.h"
#include "core/guides/guide.h"
#include "core/image/atomic_file.h"
#include "core/study/changes.h"

namespace hscaffold {

struct Reference {
  std::string id;
  std::string name;  ///< of the file it came from
  std::string
      content;  ///< by which its picture is known: `contentOf`; empty in studies of version 4 and before: its id
  Size size;    ///< of the decoded picture, turned upright
  Placement placement;
  std::string extra;  ///< fields of newer versions, as JSON; empty: none
  friend bool operator==(const Reference&, const Reference&) = default;
  /// The name under which the study keeps its picture file.
  [[nodiscard]] const std::string& source() const { return content.empty() ? id : content; }
};

/// What is looked at: kept in the file, never undone.
struct Looking {
  std::string reference, guide;            ///< selected; empty: none
  std::int64_t proof = 0;                  ///< shown; 0: none
  std::int64_t sheet = 0;                  ///< shown in the Sheet view; 0: all proofs, -1: those with a star
  std::string final, touchUp;              ///< shown in the Finish view; empty: none
  std::map<std::int64_t, int> cellWidths;  ///< by sheet, pixels: where somebody chose one
  friend bool operator==(const Looking&, const Looking&) = default;
};

/// How proofs are pulled: what for looking may be another engine, smaller and with fewer steps than what is kept.
struct PullSet {
  std::string engine = "stand-in";  ///< by name; it need not be here
  std::string family;               ///< of its models; empty: whichever it takes first
  int longest = 0;                  ///< pixels on the proof's longer side; 0: the frame's own size
  int steps = static_cast<int>(limits::steps.usual);
  friend bool operator==(const PullSet&, const PullSet&) = default;
};

/// A study: its settings, which undo works on, and what is looked at. Small, and copied when an action ends. Pictures
/// and proofs are kept by `StudyFile`.
struct StudyState {
  std::string title = "Untitled study";
  Size frame{768, 512};
  int sizeStep = 8;
  // Of the two sets "rough" and "final", what is in use now, with the brief's steps; see core/study/pull_sets.h.
  std::string engine = "stand-in";  ///< what makes its proofs, by name; it need not be here
  std::string family;               ///< see `PullSet`
  int longest = 0;                  ///< see `PullSet`
  bool rough = false;               ///< which of the two that is
  std::optional<PullSet> otherSet;  ///< the one that is not in use; none until somebody changed over
  std::vector<Reference> references;
  std::vector<Guide> guides;
  std::vector<Final> finals;  ///< oldest first
  Brief brief;
  std::string scene;                       ///< the stage: see stage::sceneToText; empty: nobody was on it yet
  bool keepTotal = false;                  ///< changing one weight rebalances the others
  std::set<std::string> held;              ///< guides whose weight stays when others are rebalanced, by id
  double comfort = limits::comfort.usual;  ///< the load up to which there are no doubts
  Looking looking;
  std::set<std::string> leftBe;         ///< checks that the artist does not want to hear of again, by id
  std::vector<std::int64_t> discarded;  ///< proofs put away, newest last
  std::vector<std::int64_t> kept;       ///< proofs with a star, in the order in which they got it
  std::int64_t nextId = 1;              ///< for ids of references, guides, finals and touch-ups
  std::string extra;                    ///< fields of newer versions, as JSON; empty: none
  friend bool operator==(const StudyState&, const StudyState&) = default;

  [[nodiscard]] const Reference* reference(const std::string& id) const;
  [[nodiscard]] const Guide* guide(const std::string& id) const;
  [[nodiscard]] const Final* final(const std::string& id) const;
  Final* final(const std::string& id);
  Reference* reference(const std::string& id);
  Guide* guide(const std::string& id);
  [[nodiscard]] const Guide* selectedGuide() const { return guide(looking.guide); }
  [[nodiscard]] const Reference* selectedReference() const { return reference(looking.reference); }
  [[nodiscard]] const Final* shownFinal() const { return final(looking.final); }
  /// Selects the first guide and reference where those that were selected are gone.
  void lookAtWhatIsThere();
};

/// Where a guide lies now.
GuidePlace placeOf(const StudyState& state, const Guide& guide);

/// Brings everything into the ranges that readers accept: what is written can always be read again. Texts that are too
/// long are cut between characters.
void keepWithinLimits(StudyState& state);

std::string newId(StudyState& state, const std::string& prefix);

nlohmann::json stateToJson(const StudyState& state);
/// Fields of newer versions are carried along, and so is what was left out where things are mended. @throws Problem
/// (badInput)
StudyState stateFromJson(const nlohmann::json& json, Mended* mended = nullptr);

/// Whether the start picture was a reference that has been taken out.
bool startIsGone(const StudyState& state);
/// The recipe that a pull now would have. Guides that are off, or whose reference is gone, are left out, and so is such
/// a start picture.
Recipe recipeOf(const StudyState& state);
/// Brings the settings of a recipe back: frame, brief, guides by id (others are turned off, missing ones made anew
/// where their reference is still there), placements. @return what could not be brought back, one sentence each.
std::vector<std::string> adoptRecipe(StudyState& state, const Recipe& recipe);

/// The recipe of a proof from elsewhere, as this study may adopt it: what only looks like something of this study, by
/// an id or a number that is used here for something else, comes as something new or not at all.
/// @param lost  gets a sentence for each thing that cannot come along.
Recipe asForeign(Recipe recipe, const StudyState& state, std::vector<std::string>& lost);

/// Names of the hand work that a guide needs (see WorkStore).
std::set<std::string> workNamedIn(const Guide& guide);

/// One proof as the file keeps it.
struct ProofInfo {
  std::int64_t number = 0;
  Recipe recipe;
  double milliseconds = 0;
  std::string made;                     ///< ISO 8601, UTC
  std::map<std::string, double> holds;  ///< by guide id, [0, 100]
  std::optional<double> shift;          ///< from the first guide's reference, [0, 100]; none without a reference
  std::int64_t sheet = 0;               ///< of which it is a cell; 0: pulled alone
  int cell = 0;
};

/// Mean hold of all guides; none where nothing was measured.
std::optional<double> meanHold(const ProofInfo& proof);
/// Hold of one guide by its id; of all for an empty one.
std::optional<double> holdOf(const ProofInfo& proof, const std::string& guide);

}  // namespace hscaffold
