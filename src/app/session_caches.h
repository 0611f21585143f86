/// What the background thread of a session keeps from one request to the next. Only for the files of StudySession.
#pragma once

#include "app/session.h"
#include "core/pose/pose_words.h"

namespace hscaffold::app {

inline constexpr int displaySide = 2048;  ///< longest side of a reference as it is shown

/// Belongs to the worker thread.
struct StudySession::WorkerCaches {
  struct Placed {
    std::string key;
    std::shared_ptr<const Image<Rgb>> picture;
  };
  std::map<std::string, Placed> placed;
  std::map<std::string, std::pair<std::string, ExtractionCache>>
      extractions;  ///< by guide, with the picture they are of
  /// What lies below retouch, by guide, with what it was made from: strokes of a brush do not make it anew.
  struct Below {
    std::string key;
    Extraction extraction;
  };
  std::map<std::string, Below> below;

  /// What figures do, in words; those that are gone are dropped.
  std::map<std::string, std::map<std::shared_ptr<const pose::Figure>, pose::PoseWords>> words;  ///< by guide

  std::shared_ptr<const Image<Rgb>> placedPicture(const std::string& id, const Image<Rgba16>& reference,
                                                  const Placement& placement, Size frame, const std::string& key,
                                                  const StopToken& stop) {
    Placed& entry = placed[id];
    if (entry.key != key || !entry.picture) {
      entry.picture = std::make_shared<const Image<Rgb>>(place(reference, placement, frame, stop));
      entry.key = key;
    }
    return entry.picture;
  }
};

}  // namespace hscaffold::app
