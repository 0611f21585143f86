/// An engine for tests that waits for them.
#pragma once

#include <atomic>
#include <condition_variable>
#include <mutex>
#include <set>

#include "core/engine/engine.h"

namespace fixtures {

using namespace hscaffold;

/// An engine somewhere else: each job waits until it is let go, or fails for now where it is told to.
class FarEngine final : public Engine {
 public:
  explicit FarEngine(int lanes) : lanes_(lanes) {}
  [[nodiscard]] EngineInfo info() const override {
    EngineInfo info;
    info.name = "far";
    info.id = "far 3";
    info.title = "Far engine";
    info.kinds = {"edges"};
    info.lanes = lanes_;
    info.elsewhere = true;
    auto words = std::make_shared<EngineWords>();
    words->all = {"gramophone"};
    info.words = std::move(words);
    return info;
  }
  Image<Rgb8> generate(const EngineJob& job, const EngineSink&, StopToken stop) override {
    std::unique_lock lock(mutex_);
    ++asked;
    if (failing.contains(job.recipe.brief.steps)) throw failedForNow("The far engine is busy.");
    changed_.wait(lock, stop, [&] { return open_; });
    throwIfStopped(stop);
    return Image<Rgb8>(job.recipe.frame);
  }
  [[nodiscard]] double estimate(const Recipe&) const override { return 1000; }
  void letGo() {
    const std::lock_guard lock(mutex_);
    open_ = true;
    changed_.notify_all();
  }
  std::atomic<int> asked = 0;
  std::set<int> failing;  ///< by number of steps

 private:
  int lanes_;
  std::mutex mutex_;
  std::condition_variable_any changed_;
  bool open_ = false;
};

}  // namespace fixtures
