#include "app/document/study_writer.h"

#include "core/study/study_file.h"

namespace hscaffold::app {

StudyWriter::StudyWriter(QObject* parent) : QObject(parent) { thread_.setMaxThreadCount(1); }

StudyWriter::~StudyWriter() { thread_.waitForDone(); }

void StudyWriter::follow(const StudyFile* file) {
  finish();
  notes_.dropAll();
  path_ = file != nullptr ? file->path() : std::filesystem::path();
  connection_ = std::make_shared<std::unique_ptr<StudyFile>>();
  notes_ = file != nullptr ? StudyNotes(path_) : StudyNotes();
  written_ = file != nullptr ? file->step() : 0;
}

void StudyWriter::write(std::shared_ptr<const StudyEntry> entry, Done done) {
  auto job = std::make_shared<std::packaged_task<QString()>>([entry, connection = connection_, path = path_] {
    try {
      if (!*connection) *connection = std::make_unique<StudyFile>(StudyFile::another(path));
      (*connection)->write(*entry);
      return QString();
    } catch (const std::exception& error) {
      return QString(error.what());
    }
  });
  jobs_.push_back({job->get_future(), entry->step, std::move(done)});
  thread_.start([this, job] {
    (*job)();
    QMetaObject::invokeMethod(this, &StudyWriter::tell, Qt::QueuedConnection);
  });
}

/// In the order in which they were given.
void StudyWriter::tell() {
  while (!jobs_.empty() && jobs_.front().wrong.wait_for(std::chrono::seconds(0)) == std::future_status::ready) {
    Job job = std::move(jobs_.front());
    jobs_.pop_front();
    const QString wrong = job.wrong.get();
    if (wrong.isEmpty() && job.step > 0) written_ = job.step;
    job.done(wrong);
  }
}

void StudyWriter::finish() {
  while (!jobs_.empty()) {
    jobs_.front().wrong.wait();
    tell();
  }
}

}  // namespace hscaffold::app
