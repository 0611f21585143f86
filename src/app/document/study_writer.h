/// Writes into the open study on a thread of its own, one entry after another, so that the window waits for no disk.
/// Lives on the interface thread.
#pragma once

#include <QObject>
#include <QThreadPool>
#include <deque>
#include <filesystem>
#include <functional>
#include <future>
#include <memory>

#include "core/study/study_notes.h"

namespace hscaffold {
class StudyFile;
}

namespace hscaffold::app {

class StudyWriter : public QObject {
  Q_OBJECT
 public:
  /// How it went, on the interface thread. @param wrong  why it is not in the study; empty if it is
  using Done = std::function<void(const QString& wrong)>;

  explicit StudyWriter(QObject* parent = nullptr);
  ~StudyWriter() override;  ///< writes what was given to it

  /// What comes from now on goes into this study, which is open. What was on its way is written first; what then is
  /// still noted of the one before is wanted there no more.
  /// @param file  null: nothing is written any more
  void follow(const StudyFile* file);
  void write(std::shared_ptr<const StudyEntry> entry, Done done);
  /// Waits for all of it, and says how it went.
  void finish();
  [[nodiscard]] bool idle() const { return jobs_.empty(); }

  /// The step that the study holds.
  [[nodiscard]] std::int64_t written() const { return written_; }
  /// Keeps what has been done and is not written yet where it outlives this program.
  void note(StudyNotes::Name name, const StudyEntry& entry) const { notes_.put(name, written_, entry); }
  void forget(StudyNotes::Name name) const { notes_.drop(name); }
  void forgetAll() const { notes_.dropAll(); }

 private:
  void tell();

  struct Job {
    std::future<QString> wrong;
    std::int64_t step = 0;
    Done done;
  };
  std::filesystem::path path_;
  std::shared_ptr<std::unique_ptr<StudyFile>> connection_;  ///< the thread's own
  StudyNotes notes_;
  std::int64_t written_ = 0;
  std::deque<Job> jobs_;
  QThreadPool thread_;
};

}  // namespace hscaffold::app
