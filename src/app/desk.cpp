#include "app/desk.h"

namespace hscaffold::app {

Desk::Desk(QObject* parent)
    : QObject(parent),
      maps(document, tasks),
      proofs(document, maps, tasks),
      queue(document, maps, proofs, tasks, engines),
      finals(document, maps, proofs, tasks, engines),
      finder(document, proofs, queue, tasks),
      sizeTrials(document, proofs, queue, tasks, engines),
      checks(document, maps, proofs, engines),
      workbench(document, maps, tasks) {
  // What runs for the study that is left ends with it.
  connect(&document, &StudyDocument::closing, &tasks, &TaskRunner::forgetAll);
  connect(&document, &StudyDocument::problem, this, &Desk::problem);
  connect(&document, &StudyDocument::notice, this, &Desk::notice);
  connect(&tasks, &TaskRunner::problem, this, &Desk::problem);
  connect(&maps, &MapRoom::problem, this, &Desk::problem);
  connect(&proofs, &ProofShelf::problem, this, &Desk::problem);
  connect(&queue, &PullQueue::notice, this, &Desk::notice);
  connect(&queue, &PullQueue::problem, this, &Desk::problem);
  connect(&queue, &PullQueue::engineHeard, this,
          [this](const QString& name, const QString& trouble) { sayOf(name.toStdString(), trouble.toStdString()); });
  connect(&finals, &FinalShelf::problem, this, &Desk::problem);
  connect(&finals, &FinalShelf::notice, this, &Desk::notice);
  connect(&finder, &Finder::problem, this, &Desk::problem);
  connect(&workbench.work, &HandWork::worked, this, &Desk::notice);
  connect(&workbench.pose, &PoseWork::said, this, &Desk::notice);
  connect(&workbench.depthGuess, &DepthGuess::said, this, &Desk::notice);
  connect(&workbench.light, &LightWork::said, this, &Desk::notice);
}

void Desk::addEngine(std::shared_ptr<Engine> engine) {
  engines.add(std::move(engine));
  checks.refresh();
  emit enginesChanged();
}

void Desk::removeEngine(const std::string& name) {
  engines.remove(name);
  checks.refresh();
  emit enginesChanged();
}

void Desk::sayOf(const std::string& engine, const std::string& trouble) {
  if (!engines.say(engine, trouble)) return;
  checks.refresh();
  emit enginesChanged();
}

void Desk::write(const QString& path, std::function<void()> job) {
  writeAndTell(path, [job = std::move(job)](const StopToken&) {
    job();
    return std::vector<std::string>();
  });
}

void Desk::writeAndTell(const QString& path, std::function<std::vector<std::string>(const StopToken&)> job) {
  tasks.run(this, "write " + path.toStdString(), Priority::hand, std::move(job),
            [this, path](const std::vector<std::string>& told) {
              QString sentence = "Written to " + path;
              for (const std::string& each : told) sentence += ". " + QString::fromStdString(each);
              emit notice(sentence);
            });
}

Desk::~Desk() {
  tasks.forgetAll();
  workbench.work.cancel();
}

}  // namespace hscaffold::app
