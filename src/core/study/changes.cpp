#include "core/study/changes.h"

#include <algorithm>

#include "core/study/study.h"

namespace hscaffold {

Changes Changes::all() {
  Changes changes;
  changes.title = changes.frame = changes.references = changes.guideList = changes.brief = changes.engine =
      changes.finals = changes.stage = changes.others = changes.looking = true;
  return changes;
}

Changes joined(Changes a, const Changes& b) {
  a.title |= b.title;
  a.frame |= b.frame;
  a.references |= b.references;
  a.guideList |= b.guideList;
  a.brief |= b.brief;
  a.engine |= b.engine;
  a.finals |= b.finals;
  a.stage |= b.stage;
  a.others |= b.others;
  a.looking |= b.looking;
  a.guides.insert(b.guides.begin(), b.guides.end());
  return a;
}

Changes changesBetween(const StudyState& before, const StudyState& after) {
  Changes changes;
  changes.title = before.title != after.title;
  changes.frame = before.frame != after.frame || before.sizeStep != after.sizeStep;
  changes.references = before.references != after.references;
  changes.brief = before.brief != after.brief;
  changes.engine = before.engine != after.engine || before.family != after.family || before.longest != after.longest ||
                   before.rough != after.rough || before.otherSet != after.otherSet;
  changes.finals = before.finals != after.finals;
  changes.stage = before.scene != after.scene;
  changes.others = before.keepTotal != after.keepTotal || before.discarded != after.discarded ||
                   before.kept != after.kept || before.held != after.held || before.leftBe != after.leftBe ||
                   before.comfort != after.comfort || before.extra != after.extra;
  changes.looking = before.looking != after.looking;
  changes.guideList = !std::equal(before.guides.begin(), before.guides.end(), after.guides.begin(), after.guides.end(),
                                  [](const Guide& a, const Guide& b) { return a.id == b.id; });
  for (const Guide& guide : after.guides) {
    const Guide* old = before.guide(guide.id);
    if (old == nullptr || *old != guide) changes.guides.insert(guide.id);
  }
  for (const Guide& guide : before.guides)
    if (after.guide(guide.id) == nullptr) changes.guides.insert(guide.id);
  return changes;
}

}  // namespace hscaffold
