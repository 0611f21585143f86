#include "service/job_desk.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <random>

#include "core/base64.h"
#include "core/image/png.h"
#include "core/json_text.h"

namespace hscaffold {
namespace {

using Clock = std::chrono::steady_clock;

constexpr auto previewEvery = std::chrono::milliseconds(400);

double since(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

std::string freshId(const std::string& name) {
  static thread_local std::mt19937_64 dice(std::random_device{}());
  return fmt::format("{}-{:016x}", name, dice());
}

}  // namespace

const char* nameOf(JobState state) {
  switch (state) {
    case JobState::waiting:
      return "waiting";
    case JobState::running:
      return "running";
    case JobState::done:
      return "done";
    case JobState::failed:
      return "failed";
    case JobState::cancelled:
      return "cancelled";
  }
  return "";
}

struct JobDesk::Job {
  std::string id, key, digest;
  EngineJob job;  ///< empty once it has ended
  State state;
  std::vector<ServiceEvent> events;
  std::shared_ptr<const Bytes> proof;
  std::stop_source stop;
  bool wanted = true, tooLong = false;
  Clock::time_point began, ended;
  [[nodiscard]] bool over() const { return state.state != JobState::waiting && state.state != JobState::running; }
};

JobDesk::JobDesk(std::shared_ptr<Engine> engine, ServiceLimits limits, std::string name, Log log)
    : engine_(std::move(engine)),
      info_(engine_->info()),
      limits_(limits),
      name_(std::move(name)),
      log_(std::move(log)) {
  info_.maps = {};  // what stands here takes maps as they are, and converts them on its own where it needs to
  for (int lane = 0; lane < std::max(1, info_.lanes); ++lane) threads_.emplace_back([this] { work(); });
  threads_.emplace_back([this] { watch(); });
}

JobDesk::~JobDesk() {
  {
    const std::lock_guard lock(mutex_);
    closing_ = over_ = true;
    for (auto& [id, job] : jobs_)
      if (!job->over()) job->stop.request_stop();
  }
  changed_.notify_all();
}

JobDesk::Added JobDesk::add(EngineJob job, const std::string& key, const std::string& digest) {
  const std::lock_guard lock(mutex_);
  if (!key.empty())
    if (const auto known = byKey_.find(key); known != byKey_.end()) {
      const auto& same = jobs_.at(known->second);
      if (same->digest != digest)
        throw Refused{422, "Another job", "The idempotency key was used for another job: take a new one."};
      return {same->id, false};
    }
  if (closing_)
    throw Refused{503, "Closing", "The service is closing: it finishes what it has and takes nothing more."};
  if (static_cast<int>(waiting_.size()) >= limits_.waiting)
    throw Refused{429, "Too many jobs", fmt::format("{} jobs wait here already: try again later.", waiting_.size())};
  forgetOld();
  auto fresh = std::make_shared<Job>();
  do fresh->id = freshId(name_);
  while (jobs_.contains(fresh->id));
  fresh->key = key;
  fresh->digest = digest;
  fresh->state.steps = job.recipe.brief.steps;
  fresh->job = std::move(job);
  jobs_[fresh->id] = fresh;
  if (!key.empty()) byKey_[key] = fresh->id;
  waiting_.push_back(fresh);
  changed_.notify_all();
  return {fresh->id, true};
}

void JobDesk::tell(Job& job, std::string type, std::string data) {
  job.events.push_back({static_cast<std::int64_t>(job.events.size()) + 1, std::move(type), std::move(data)});
  changed_.notify_all();
}

void JobDesk::end(Job& job, JobState state, std::string type, std::string data) {
  job.state.state = state;
  job.ended = Clock::now();
  job.job = {};
  tell(job, std::move(type), std::move(data));
  auto& count = state == JobState::done ? counts_.done : state == JobState::failed ? counts_.failed : counts_.cancelled;
  ++count;
}

void JobDesk::work() {
  for (;;) {
    std::shared_ptr<Job> job;
    {
      std::unique_lock lock(mutex_);
      changed_.wait(lock, [&] { return over_ || !waiting_.empty(); });
      if (over_) return;
      job = waiting_.front();
      waiting_.pop_front();
      job->state.state = JobState::running;
      job->began = Clock::now();
      ++counts_.running;
    }
    Clock::time_point lastPreview{};
    const auto sink = [&](const EngineProgress& progress) {
      std::string preview;
      if (progress.preview && Clock::now() - lastPreview >= previewEvery) {
        const auto png = encodePng(progress.preview().view());
        preview = nlohmann::json{{"png", base64(png)}}.dump();
        lastPreview = Clock::now();
      }
      const std::lock_guard lock(mutex_);
      job->state.step = progress.step;
      tell(*job, "step", nlohmann::json{{"step", progress.step}, {"steps", progress.steps}}.dump());
      if (preview.empty()) return;
      // Of previews only the last one is kept: who comes later needs no other.
      for (ServiceEvent& event : job->events)
        if (event.type == "preview") event.data = "{}", event.type = "past";
      tell(*job, "preview", std::move(preview));
    };
    std::shared_ptr<const Bytes> proof;
    std::string trouble;
    bool passes = false, cancelled = false;
    try {
      const auto picture = engine_->generate(job->job, sink, job->stop.get_token());
      job->job.recipe.engine = info_.id;
      proof = std::make_shared<const Bytes>(encodePng(picture.view(), textsFor(job->job.recipe)));
    } catch (const Cancelled&) {
      cancelled = true;
    } catch (const std::bad_alloc&) {
      trouble = "There is not enough memory for this proof.";
    } catch (const Problem& problem) {
      trouble = problem.what();
      passes = problem.passes();
    } catch (const std::exception& error) {
      trouble = error.what();
    }
    double took = 0;
    std::string event;
    {
      const std::lock_guard lock(mutex_);
      took = since(job->began);
      --counts_.running;
      if (job->tooLong) {
        trouble = fmt::format("The job took longer than {:.0f} s and was ended.", limits_.seconds);
        cancelled = false;
      }
      if (cancelled) {
        end(*job, JobState::cancelled, "cancelled", "{}");
        event = "job cancelled";
      } else if (!trouble.empty()) {
        job->state.detail = trouble;
        end(*job, JobState::failed, "failed", jsonText({{"detail", trouble}, {"passes", passes}}));
        event = "job failed";
      } else {
        job->proof = proof;
        end(*job, JobState::done, "proof",
            nlohmann::json{{"proof", 1}, {"milliseconds", took}, {"bytes", proof->size()}}.dump());
        event = "job done";
      }
    }
    if (log_) log_(event, job->id, took);
  }
}

void JobDesk::watch() {
  std::unique_lock lock(mutex_);
  while (!over_) {
    changed_.wait_for(lock, std::chrono::milliseconds(250), [&] { return over_; });
    for (auto& [id, job] : jobs_)
      if (job->state.state == JobState::running && since(job->began) > 1000 * limits_.seconds && !job->tooLong) {
        job->tooLong = true;
        job->stop.request_stop();
      }
    forgetOld();
  }
}

void JobDesk::forgetOld() {
  std::vector<std::shared_ptr<Job>> ended;
  for (auto& [id, job] : jobs_)
    if (job->over()) ended.push_back(job);
  std::sort(ended.begin(), ended.end(), [](const auto& a, const auto& b) { return a->ended < b->ended; });
  std::size_t most = ended.size();
  for (const auto& job : ended) {
    if (since(job->ended) < 1000 * limits_.keptSeconds && most <= static_cast<std::size_t>(limits_.kept)) break;
    --most;
    if (!job->key.empty()) byKey_.erase(job->key);
    jobs_.erase(job->id);
  }
}

bool JobDesk::cancel(const std::string& id) {
  bool waited = false;
  {
    const std::lock_guard lock(mutex_);
    const auto found = jobs_.find(id);
    if (found == jobs_.end()) return false;
    const auto job = found->second;
    if (job->state.state == JobState::waiting) {
      std::erase(waiting_, job);
      end(*job, JobState::cancelled, "cancelled", "{}");
      waited = true;
    } else if (job->state.state == JobState::running) {
      job->stop.request_stop();
    }
  }
  if (waited && log_) log_("job cancelled", id, 0);
  return true;
}

std::optional<JobDesk::State> JobDesk::state(const std::string& id) const {
  const std::lock_guard lock(mutex_);
  const auto found = jobs_.find(id);
  return found != jobs_.end() ? std::optional(found->second->state) : std::nullopt;
}

std::optional<JobDesk::News> JobDesk::news(const std::string& id, std::int64_t after,
                                           std::chrono::milliseconds patience) {
  std::unique_lock lock(mutex_);
  const auto found = jobs_.find(id);
  if (found == jobs_.end()) return {};
  const auto job = found->second;
  const auto from = static_cast<std::size_t>(std::max<std::int64_t>(0, after));
  changed_.wait_for(lock, patience, [&] { return over_ || job->events.size() > from || job->over(); });
  News news;
  for (std::size_t i = from; i < job->events.size(); ++i)
    if (job->events[i].type != "past") news.events.push_back(job->events[i]);
  news.ended = job->over();
  return news;
}

std::shared_ptr<const Bytes> JobDesk::proof(const std::string& id) const {
  const std::lock_guard lock(mutex_);
  const auto found = jobs_.find(id);
  return found != jobs_.end() ? found->second->proof : nullptr;
}

JobDesk::Counts JobDesk::counts() const {
  const std::lock_guard lock(mutex_);
  Counts counts = counts_;
  counts.waiting = static_cast<int>(waiting_.size());
  counts.kept = static_cast<int>(jobs_.size()) - counts.waiting - counts.running;
  counts.closing = closing_;
  return counts;
}

void JobDesk::finish() {
  std::unique_lock lock(mutex_);
  closing_ = true;
  changed_.wait(lock, [&] { return waiting_.empty() && counts_.running == 0; });
}

}  // namespace hscaffold
