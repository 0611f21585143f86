#include "app/tasks/task_runner.h"

#include "app/tasks/trouble.h"
#include "app/tasks/yielding.h"

#include <QRunnable>
#include <atomic>
#include <utility>

namespace hscaffold::app {
namespace {

/// While a slider is dragged, something of what it changes is seen at least this often.
constexpr qint64 longestUnseen = 300;
/// One long pull, and room for what the hand does meanwhile.
constexpr int threads = 3;
/// That wait for machines elsewhere and compute next to nothing.
constexpr int waitingThreads = 32;

/// Work for the pool. What was written before it was made is seen by the thread that runs it; this says so by itself
/// rather than by the pool's inner workings, so that checkers of threads can follow.
class Job : public QRunnable {
 public:
  explicit Job(std::function<void()> work) : work_(std::move(work)) { handed.fetch_add(1, std::memory_order_acq_rel); }
  void run() override {
    handed.fetch_add(1, std::memory_order_acq_rel);
    yieldToTheHand();
    work_();
  }

 private:
  static inline std::atomic<std::uint64_t> handed = 0;
  std::function<void()> work_;
};

/// What a call throws, in words; empty if it went well or was cancelled.
template <typename Call>
QString troubleIfAny(Call&& call) {
  try {
    return QString::fromStdString(troubleIn(call));
  } catch (const Cancelled&) {
    return {};
  }
}

}  // namespace

/// May lie in a pool twice, after it was hurried: who comes to it second finds nothing to do.
struct TaskRunner::Begun {
  std::function<void()> work;
  std::atomic_flag taken;
};

TaskRunner::TaskRunner(QObject* parent) : QObject(parent) {
  pool_.setMaxThreadCount(threads);
  waiting_.setMaxThreadCount(waitingThreads);
  deliver_.setSingleShot(true);
  connect(&deliver_, &QTimer::timeout, this, &TaskRunner::takeArrived);
}

TaskRunner::~TaskRunner() {
  forgetAll();
  for (QThreadPool* pool : {&pool_, &waiting_}) {
    pool->clear();
    pool->waitForDone();
  }
  const std::lock_guard lock(mutex_);
  arrived_.clear();
}

void TaskRunner::post(std::function<void()> call) {
  const std::lock_guard lock(mutex_);
  arrived_.push_back(std::move(call));
  QMetaObject::invokeMethod(this, "wake", Qt::QueuedConnection);
}

void TaskRunner::wake() {
  if (!deliver_.isActive()) deliver_.start();
}

/// One at a time: it may open a dialog, during which the next ones arrive; and between two of them the window answers,
/// however many come at once.
void TaskRunner::takeArrived() {
  std::function<void()> call;
  {
    const std::lock_guard lock(mutex_);
    if (arrived_.empty()) return;
    call = std::move(arrived_.front());
    arrived_.pop_front();
    if (!arrived_.empty()) deliver_.start();
  }
  if (const QString trouble = troubleIfAny(call); !trouble.isEmpty()) emit problem(trouble);
}

void TaskRunner::submit(QObject* context, const std::string& key, Priority priority, Work work) {
  connect(context, &QObject::destroyed, this, &TaskRunner::contextGone, Qt::UniqueConnection);
  Request request{context, priority, std::move(work)};
  const auto found = tasks_.find(key);
  if (found == tasks_.end()) return start(key, std::move(request));
  Task& task = found->second;
  task.next = std::make_unique<Request>(std::move(request));
  if (task.sinceDelivery.elapsed() < longestUnseen) task.running.request_stop();
}

void TaskRunner::start(const std::string& key, Request request) {
  Task& task = tasks_[key];
  task.running = std::stop_source();
  task.context = request.context;
  task.number = ++runs_;
  task.priority = request.priority;
  if (!task.sinceDelivery.isValid()) task.sinceDelivery.start();
  task.begun = std::make_shared<Begun>();
  task.begun->work = [this, key, number = task.number, stop = task.running.get_token(),
                      work = std::move(request.work)] {
    std::function<void()> deliver;
    const QString trouble = troubleIfAny([&] { deliver = work(stop); });
    post([this, key, number, deliver = std::move(deliver), trouble] { finish(key, number, deliver, trouble); });
  };
  giveToThread(task);
}

void TaskRunner::giveToThread(const Task& task) {
  QThreadPool& pool = task.priority == Priority::elsewhere ? waiting_ : pool_;
  pool.start(new Job([begun = task.begun] {
               if (!begun->taken.test_and_set()) std::exchange(begun->work, nullptr)();
             }),
             static_cast<int>(task.priority));
}

void TaskRunner::hurry(const std::string& key, Priority priority) {
  const auto found = tasks_.find(key);
  if (found == tasks_.end()) return;
  Task& task = found->second;
  if (task.next && task.next->priority != Priority::elsewhere)
    task.next->priority = std::max(task.next->priority, priority);
  if (task.priority == Priority::elsewhere || task.priority >= priority) return;
  task.priority = priority;
  giveToThread(task);
}

void TaskRunner::finish(const std::string& key, std::uint64_t number, const std::function<void()>& deliver,
                        const QString& trouble) {
  const auto found = tasks_.find(key);
  if (found == tasks_.end() || found->second.number != number) return;  // everything was forgotten meanwhile
  const bool wanted = found->second.context != nullptr;
  const auto next = std::exchange(found->second.next, nullptr);
  if (wanted && deliver) found->second.sinceDelivery.restart();
  if (next && next->context)
    start(key, std::move(*next));
  else
    tasks_.erase(found);
  // Last, since it may ask for more or open another study.
  if (wanted && !trouble.isEmpty()) emit problem(trouble);
  const QString afterwards = wanted && deliver ? troubleIfAny(deliver) : QString();
  if (!afterwards.isEmpty()) emit problem(afterwards);
  if (!tasks_.contains(key)) emit ended(QString::fromStdString(key));
}

void TaskRunner::tell(const StopToken& stop, std::function<void()> call) {
  // Whoever it works for may be going just now: only this thread asks that, and then stops the job.
  post([stop, call = std::move(call)] {
    if (!stop.stop_requested()) call();
  });
}

void TaskRunner::stop(const std::string& key) {
  const auto found = tasks_.find(key);
  if (found == tasks_.end()) return;
  found->second.next.reset();
  found->second.running.request_stop();
}

bool TaskRunner::runsAny(const std::string& begins) const {
  const auto found = tasks_.lower_bound(begins);
  return found != tasks_.end() && found->first.starts_with(begins);
}

void TaskRunner::forgetAll() {
  for (auto& [key, task] : tasks_) task.running.request_stop();
  tasks_.clear();
}

void TaskRunner::contextGone() {
  // The pointers of what works for it are null by now.
  for (auto& [key, task] : tasks_) {
    if (task.context == nullptr) task.running.request_stop();
    if (task.next && task.next->context == nullptr) task.next.reset();
  }
}

}  // namespace hscaffold::app
