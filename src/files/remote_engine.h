/// An engine elsewhere: a service that speaks docs/engine.openapi.yaml, asked over HTTP.
#pragma once

#include <atomic>
#include <optional>
#include <string>

#include "core/engine/engine.h"

namespace hscaffold {

/// What is known of such a service, as it is kept; its token is kept elsewhere.
struct RemoteSetup {
  std::string name;     ///< by which studies keep it
  std::string address;  ///< "http://127.0.0.1:8431"; https is taken, with certificates that the system trusts
  std::string token = {};
  double patience = 30;                 ///< seconds without a word from it, until it counts as gone
  std::optional<MapsWanted> maps = {};  ///< where somebody set by hand how it wants them
};

/// A job is sent once, under a key of its own, and followed by its events; a stream that breaks off is gone on with,
/// and a job that the service lost (it was started again) is sent anew: what comes of it is the same picture. Redirects
/// are not followed, answers are read only as far as a right one could go, and the token is in no message.
class RemoteEngine final : public Engine {
 public:
  /// Asks what it is. @throws Problem (badInput) for an address that is none, (failed) if nothing answers or not
  /// rightly
  explicit RemoteEngine(RemoteSetup setup);
  [[nodiscard]] EngineInfo info() const override { return info_; }
  Image<Rgb8> generate(const EngineJob& job, const EngineSink& sink, StopToken stop) override;
  [[nodiscard]] double estimate(const Recipe& recipe) const override;

 private:
  RemoteSetup setup_;
  EngineInfo info_;
  std::atomic<double> perMegapixel_ = 2000;  ///< milliseconds, as measured so far
};

}  // namespace hscaffold
