/// A piece of hand work of the selected guide as it lies in the frame now, kept until it or its place is another.
#pragma once

#include <memory>

#include "app/digest.h"
#include "app/document/study_document.h"

namespace hscaffold::app {

template <typename T>
class FollowedPiece {
 public:
  /// Null if the guide has none in that slot, or if it is missing: that was said when the map was asked for.
  std::shared_ptr<const T> of(StudyDocument& document, const Guide* guide, const char* slot, const WorkForm& form) {
    if (guide == nullptr || !guide->work.has(slot)) return nullptr;
    const GuidePlace place = document.placeOf(*guide);
    const std::uint64_t key = Digest().add(guide->work.in(slot)).add(place.frame).add(place.placing).value();
    if (key == key_) return piece_;
    key_ = key;
    piece_.reset();
    try {
      piece_ = std::make_shared<const T>(
          following(*document.work().get<T>(form, guide->work.in(slot)), place.frame, place.placing));
    } catch (const Problem&) {
    }
    return piece_;
  }

 private:
  std::uint64_t key_ = 0;  ///< what `piece_` was made from
  std::shared_ptr<const T> piece_;
};

}  // namespace hscaffold::app
