#include "app/tasks/task_runner.h"

#include <utility>

namespace hscaffold::app {
namespace {

/// While a slider is dragged, something of what it changes is seen at least this often.
constexpr qint64 longestUnseen = 300;
/// One long pull, and room for what the hand does meanwhile.
constexpr int threads = 3;

}  // namespace

TaskRunner::TaskRunner(QObject* parent) : QObject(parent) { pool_.setMaxThreadCount(threads); }

TaskRunner::~TaskRunner() {
  forgetAll();
  pool_.clear();
  pool_.waitForDone();
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
  if (!task.sinceDelivery.isValid()) task.sinceDelivery.start();
  pool_.start(
      [this, key, number = task.number, stop = task.running.get_token(), work = std::move(request.work)] {
        std::function<void()> deliver;
        QString trouble;
        try {
          deliver = work(stop);
        } catch (const Cancelled&) {
        } catch (const std::bad_alloc&) {
          trouble = "There is not enough memory for this.";
        } catch (const std::exception& error) {
          trouble = error.what();
        }
        QMetaObject::invokeMethod(
            this, [this, key, number, deliver, trouble] { finish(key, number, deliver, trouble); },
            Qt::QueuedConnection);
      },
      static_cast<int>(request.priority));
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
  if (wanted && deliver) deliver();
  if (!tasks_.contains(key)) emit ended(QString::fromStdString(key));
}

void TaskRunner::tell(QObject* context, const StopToken& stop, std::function<void()> call) {
  QMetaObject::invokeMethod(
      this,
      [stop, context = QPointer<QObject>(context), call = std::move(call)] {
        if (context && !stop.stop_requested()) call();
      },
      Qt::QueuedConnection);
}

void TaskRunner::stop(const std::string& key) {
  const auto found = tasks_.find(key);
  if (found == tasks_.end()) return;
  found->second.next.reset();
  found->second.running.request_stop();
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
