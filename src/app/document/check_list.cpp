#include "app/document/check_list.h"

#include <algorithm>
#include <utility>

#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/proofs/proof_shelf.h"

namespace hscaffold::app {

CheckList::CheckList(StudyDocument& document, MapRoom& maps, const ProofShelf& proofs, const EngineRegistry& engines,
                     QObject* parent)
    : QObject(parent), document_(document), maps_(maps), proofs_(proofs), engines_(engines) {
  connect(&document_, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.settings()) refresh();
  });
  connect(&maps_, &MapRoom::factsChanged, this, &CheckList::refresh);
  connect(&proofs_, &ProofShelf::changed, this, &CheckList::refresh);
}

void CheckList::refresh() {
  // What the checks look at in pictures was found in the background, with the maps.
  const auto engine = engines_.info(document_.state().engine);
  auto now = checksOf(document_.state(), maps_.facts(), pairs_, engine.get(), proofs_.all());
  const bool same = std::equal(now.begin(), now.end(), checks_.begin(), checks_.end(),
                               [](const Check& a, const Check& b) { return a.id == b.id && a.sentence == b.sentence; });
  checks_ = std::move(now);  // fixes may act on other numbers
  if (!same) emit changed();
}

const Check* CheckList::about(const std::string& guide) const {
  const auto found =
      std::find_if(checks_.begin(), checks_.end(), [&](const Check& check) { return check.id.ends_with(":" + guide); });
  return found != checks_.end() ? &*found : nullptr;
}

}  // namespace hscaffold::app
