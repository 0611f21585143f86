/// What is different between two states of a study, so that each part of the window refreshes only what concerns it.
#pragma once

#include <set>
#include <string>

namespace hscaffold {

struct StudyState;

struct Changes {
  bool title = false;
  bool frame = false;       ///< size or size step
  bool references = false;  ///< which there are, in which order, or how one lies
  bool guideList = false;   ///< which there are, or in which order
  bool brief = false;
  bool engine = false;           ///< which one makes the proofs, and how: all of both sets
  bool finals = false;           ///< and their touch-ups
  bool stage = false;            ///< its scene
  bool others = false;           ///< keep total, proofs put away and starred
  bool looking = false;          ///< what is selected and shown
  std::set<std::string> guides;  ///< whose own settings are different, new ones and gone ones too
  /// Whether anything that undo knows is different.
  [[nodiscard]] bool settings() const {
    return title || frame || references || guideList || brief || engine || finals || stage || others || !guides.empty();
  }
  [[nodiscard]] bool any() const { return settings() || looking; }
  [[nodiscard]] bool guide(const std::string& id) const { return guides.contains(id); }
  /// Everything, as when another study is opened.
  static Changes all();
};

/// What either says.
Changes joined(Changes a, const Changes& b);
Changes changesBetween(const StudyState& before, const StudyState& after);

}  // namespace hscaffold
