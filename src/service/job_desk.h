/// The jobs of a service: taken, made one after the other on an engine's lanes, told of by events, given out. Nothing
/// of a job is kept longer than it may be asked for; jobs know nothing of each other.
#pragma once

#include <chrono>
#include <condition_variable>
#include <deque>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "core/engine/engine.h"
#include "core/image/atomic_file.h"
#include "files/engine_protocol.h"

namespace hscaffold {

/// What a service takes, each settable.
struct ServiceLimits {
  std::int64_t bodyBytes = std::int64_t{256} << 20;
  std::int64_t pixels = 32'000'000;  ///< of a picture, and of each of its maps
  int waiting = 64;                  ///< jobs that wait
  double seconds = 600;              ///< that a job may run
  int streams = 64;                  ///< of events at the same time
  double keptSeconds = 600;          ///< that a job can be asked for once it has ended
  int kept = 500;                    ///< jobs that have ended
};

/// Why a request cannot be served: an HTTP status and a sentence.
struct Refused {
  int status;
  std::string title, detail;
};

enum class JobState { waiting, running, done, failed, cancelled };
const char* nameOf(JobState state);

class JobDesk {
 public:
  /// Called for what should be in the log: an event, the job's id, and how long it took in milliseconds or 0.
  using Log = std::function<void(const std::string& event, const std::string& job, double milliseconds)>;
  /// @param name  of this service, with which its jobs' ids begin
  JobDesk(std::shared_ptr<Engine> engine, ServiceLimits limits, std::string name, Log log);
  ~JobDesk();
  JobDesk(const JobDesk&) = delete;

  [[nodiscard]] const EngineInfo& info() const { return info_; }
  [[nodiscard]] const ServiceLimits& limits() const { return limits_; }

  struct Added {
    std::string id;
    bool isNew = true;
  };
  /// @param key     under which the same job is not taken twice; empty: none @param digest  of what was asked for
  /// @throws Refused
  Added add(EngineJob job, const std::string& key, const std::string& digest);
  /// False if there is no such job.
  bool cancel(const std::string& id);

  struct State {
    JobState state = JobState::waiting;
    int step = 0, steps = 0;
    std::string detail;  ///< why it failed
  };
  [[nodiscard]] std::optional<State> state(const std::string& id) const;
  struct News {
    std::vector<ServiceEvent> events;
    bool ended = false;  ///< and nothing more will come
  };
  /// What happened after event `after`, once there is something or the time is over. None if there is no such job.
  [[nodiscard]] std::optional<News> news(const std::string& id, std::int64_t after, std::chrono::milliseconds patience);
  [[nodiscard]] std::shared_ptr<const Bytes> proof(const std::string& id) const;

  struct Counts {
    int waiting = 0, running = 0, kept = 0;
    std::int64_t done = 0, failed = 0, cancelled = 0;
    bool closing = false;
  };
  [[nodiscard]] Counts counts() const;
  /// Takes nothing more, and returns when what runs and waits is made.
  void finish();

 private:
  struct Job;
  void work();
  void watch();
  void tell(Job& job, std::string type, std::string data);
  void end(Job& job, JobState state, std::string type, std::string data);
  void forgetOld();

  std::shared_ptr<Engine> engine_;
  EngineInfo info_;
  ServiceLimits limits_;
  std::string name_;
  Log log_;
  mutable std::mutex mutex_;
  std::condition_variable changed_;
  std::map<std::string, std::shared_ptr<Job>> jobs_;
  std::map<std::string, std::string> byKey_;
  std::deque<std::shared_ptr<Job>> waiting_;
  Counts counts_;
  bool closing_ = false, over_ = false;
  std::vector<std::jthread> threads_;
};

}  // namespace hscaffold
