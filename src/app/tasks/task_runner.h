/// Every background computation of the window. For each key the newest request wins: what waits is replaced, what runs
/// is asked to stop. Nothing outlives the object it works for, nor the study it was begun for.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QPointer>
#include <QThreadPool>
#include <QTimer>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <type_traits>

#include "core/problem.h"

namespace hscaffold::app {

/// Which waiting job goes first.
enum class Priority {
  elsewhere,  ///< waits for another machine or program: takes none of the threads that compute
  thumbnails,
  facts,
  maps,
  shown,  ///< what is looked at now
  hand
};

class TaskRunner : public QObject {
  Q_OBJECT
 public:
  explicit TaskRunner(QObject* parent = nullptr);
  ~TaskRunner() override;

  /// Runs `job(StopToken)` on another thread, then `done(result)` on this one; `done()` for jobs without a result.
  /// What the job or `done` throws is told by `problem`, but for `Cancelled`: this is the one place that catches it.
  /// @param context  whom it works for: once that is gone, or `forgetAll` was called, `done` is not called any more.
  /// @param key      one job of a key at a time. A job that was overtaken while it ran is stopped, unless nothing has
  ///                 come of this key for a while: a slider that is dragged on and on shows something now and then.
  template <typename Job, typename Done>
  void run(QObject* context, const std::string& key, Priority priority, Job job, Done done) {
    using Result = std::invoke_result_t<Job&, StopToken>;
    submit(context, key, priority, [job = std::move(job), done = std::move(done)](const StopToken& stop) mutable {
      if constexpr (std::is_void_v<Result>) {
        job(stop);
        return std::function<void()>([done = std::move(done)]() mutable { done(); });
      } else {
        auto result = std::make_shared<Result>(job(stop));
        return std::function<void()>([done = std::move(done), result]() mutable { done(std::move(*result)); });
      }
    });
  }
  /// From inside a job: `call` on the interface thread, if the job still matters then and whom it works for is there.
  /// @param stop  the job's own.
  void tell(const StopToken& stop, std::function<void()> call);

  /// What waits under the key goes with these from now on, unless it goes with earlier ones already.
  void hurry(const std::string& key, Priority priority);
  /// Stops what runs under the key and drops what waits.
  void stop(const std::string& key);
  /// Stops and drops everything: another study was opened.
  void forgetAll();
  /// Nothing runs or waits, and everything was delivered.
  [[nodiscard]] bool idle() const { return tasks_.empty(); }
  /// Something runs or waits under a key that begins so.
  [[nodiscard]] bool runsAny(const std::string& begins) const;

 signals:
  void problem(const QString& sentence);
  void ended(const QString& key);  ///< nothing runs or waits under it any more

 private slots:
  void wake();
  void takeArrived();

 private:
  using Work = std::function<std::function<void()>(const StopToken&)>;
  struct Request {
    QPointer<QObject> context;
    Priority priority;
    Work work;
  };
  struct Begun;
  /// All that goes on under one key.
  struct Task {
    std::stop_source running;       ///< of the job that runs, or waits for a thread
    QPointer<QObject> context;      ///< of that job
    Priority priority;              ///< of that job
    std::shared_ptr<Begun> begun;   ///< what a thread does, the first one that comes to it
    std::unique_ptr<Request> next;  ///< waits for it to end
    QElapsedTimer sinceDelivery;
    std::uint64_t number = 0;  ///< of the run
  };
  void submit(QObject* context, const std::string& key, Priority priority, Work work);
  void start(const std::string& key, Request request);
  void giveToThread(const Task& task);
  void finish(const std::string& key, std::uint64_t number, const std::function<void()>& deliver,
              const QString& trouble);
  void contextGone();
  /// From any thread: the call is made on the interface thread.
  void post(std::function<void()> call);

  QTimer deliver_;  ///< takes the next result as soon as the window has nothing else to do
  QThreadPool pool_, waiting_;
  std::mutex mutex_;                           ///< guards `arrived_`
  std::deque<std::function<void()>> arrived_;  ///< results on their way to the interface thread
  std::map<std::string, Task> tasks_;
  std::uint64_t runs_ = 0;
};

}  // namespace hscaffold::app
