/// One background thread on which, for each key, the newest request wins: requests that were overtaken before they
/// began are dropped, so dragging never queues up work.
#pragma once

#include <condition_variable>
#include <functional>
#include <map>
#include <mutex>
#include <string>
#include <thread>

#include "core/problem.h"

namespace hscaffold::app {

class LatestWorker {
 public:
  using Job = std::function<void(StopToken)>;
  LatestWorker() : thread_([this](const StopToken& stop) { run(stop); }) {}
  ~LatestWorker() {
    thread_.request_stop();
    wake_.notify_all();
  }
  LatestWorker(const LatestWorker&) = delete;
  LatestWorker& operator=(const LatestWorker&) = delete;

  /// Jobs catch their own exceptions but `Cancelled`.
  void submit(const std::string& key, Job job) {
    const std::lock_guard lock(mutex_);
    waiting_[key] = std::move(job);
    wake_.notify_one();
  }
  void drop(const std::string& key) {
    const std::lock_guard lock(mutex_);
    waiting_.erase(key);
  }
  [[nodiscard]] bool idle() const {
    const std::lock_guard lock(mutex_);
    return waiting_.empty() && !busy_;
  }

 private:
  void run(const StopToken& stop) {
    for (;;) {
      Job job;
      {
        std::unique_lock lock(mutex_);
        busy_ = false;
        if (!wake_.wait(lock, stop, [this] { return !waiting_.empty(); })) return;
        job = std::move(waiting_.begin()->second);
        waiting_.erase(waiting_.begin());
        busy_ = true;
      }
      try {
        job(stop);
      } catch (const Cancelled&) {
      }
    }
  }

  mutable std::mutex mutex_;
  std::condition_variable_any wake_;
  std::map<std::string, Job> waiting_;
  bool busy_ = false;
  std::jthread thread_;
};

}  // namespace hscaffold::app
