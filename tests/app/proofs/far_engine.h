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
  explicit FarEngine(int lanes, std::string name = "far", std::string title = "Far engine")
      : lanes_(lanes), name_(std::move(name)), title_(std::move(title)) {}
  [[nodiscard]] EngineInfo info() const override {
    EngineInfo info;
    info.name = name_;
    info.id = "far 3";
    info.title = title_;
    info.kinds = {"edges"};
    info.families = families;
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
    seeds.push_back(job.recipe.brief.seed);
    if (broken) throw failed("The roof of " + title_ + " leaks.");
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
  std::set<int> failing;             ///< by number of steps
  std::vector<std::uint32_t> seeds;  ///< of all that it was asked for
  std::vector<EngineFamily> families;
  std::atomic<bool> broken = false;

 private:
  int lanes_;
  std::string name_, title_;
  std::mutex mutex_;
  std::condition_variable_any changed_;
  bool open_ = false;
};

}  // namespace fixtures
