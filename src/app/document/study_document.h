/// The open study: its file with the lock on it, its history, its hand work. Lives on the interface thread. Finished
/// actions are noted at once, drags when they end or after a short pause: from then on they outlive this program, and
/// are on their way to the disk, which nobody waits for.
#pragma once

#include <QObject>
#include <QTimer>
#include <filesystem>
#include <functional>
#include <memory>

#include "app/document/study_writer.h"
#include "core/guides/kind.h"
#include "core/retouch/work_store.h"
#include "core/study/history.h"

namespace hscaffold {
class StudyFile;
class StudyLock;
}  // namespace hscaffold

namespace hscaffold::app {

class StudyDocument : public QObject {
  Q_OBJECT
 public:
  explicit StudyDocument(QObject* parent = nullptr);
  ~StudyDocument() override;

  /// What becomes of work in the open study that cannot be written when another one is opened.
  enum class Unwritten { refuse, lose };
  /// Each throws Problem and then leaves the open study as it was. A new one lies among the user's own data or, where
  /// that takes nothing more, in a temporary folder, which is said.
  void createUntitled(Unwritten unwritten = Unwritten::refuse);
  /// A study that another program works on opens for looking only.
  void open(const std::filesystem::path& path, Unwritten unwritten = Unwritten::refuse);
  /// A study read from the disk, on its way into the window.
  struct Opened {
    std::unique_ptr<StudyFile> file;
    std::unique_ptr<StudyLock> lock;
    std::string holder;  ///< who works on it; empty if it may not be written for another reason
    bool forLooking = false;
  };
  /// The slow part of `open`, for a thread of its own: checks the whole file and reads what is shown. @throws Problem
  static Opened prepare(const std::filesystem::path& path);
  /// The rest of it.
  void take(Opened opened, Unwritten unwritten = Unwritten::refuse);
  /// Whether this is the study that is open.
  [[nodiscard]] bool isOpen(const std::filesystem::path& path) const;
  /// A whole copy, which is open from then on.
  void saveAs(const std::filesystem::path& path);
  struct Place;
  /// The same in three parts, of which the second takes long and may run on any thread. From the first to the third
  /// nothing is written into the study: what is done meanwhile waits. @throws Problem
  struct Saving {
    Saving(std::filesystem::path copied, std::filesystem::path path, std::unique_ptr<StudyLock> held,
           std::shared_ptr<Place> taking);
    Saving(const Saving&) = delete;
    ~Saving();
    std::filesystem::path from, to;
    std::unique_ptr<StudyLock> lock;
    std::unique_ptr<StudyFile> copy;  ///< null until it is there
    std::shared_ptr<Place> place;     ///< takes no pictures until this ends or is given up; null from then on
  };
  /// Null if the study is at this path.
  [[nodiscard]] std::shared_ptr<Saving> beginSaving(const std::filesystem::path& path);
  static void makeCopy(Saving& saving);
  /// Without a copy the study stays where it is.
  void endSaving(Saving& saving);
  /// Somebody on another thread writes into the file, or copies it.
  [[nodiscard]] bool busy() const;
  [[nodiscard]] std::filesystem::path path() const;
  [[nodiscard]] bool isUntitled() const;
  /// Nothing can be changed: another program works on it, or its file may not be written.
  [[nodiscard]] bool forLooking() const { return forLooking_; }

  [[nodiscard]] const StudyState& state() const { return history_.state(); }
  [[nodiscard]] const StudyHistory& history() const { return history_; }
  /// One named, undoable change. Changes with the same `merge` key join until `seal()` or a pause.
  /// @return whether it was made: not in a study for looking.
  bool change(const QString& name, const std::function<void(StudyState&)>& edit, const std::string& merge = {});
  /// What nobody would want to take back; not in the undo list.
  void changeQuietly(const std::function<void(StudyState&)>& edit);
  /// The same, and there whatever is taken back: see StudyHistory::changeAlways.
  void changeAlways(const std::function<void(StudyState&)>& edit);
  /// Selections and the like: kept in the file, not in the undo list.
  void look(const std::function<void(Looking&)>& edit);
  void seal();
  void undo();
  void redo();

  [[nodiscard]] StudyFile* file() { return file_.get(); }
  /// Hand work of guides, by the names that the state holds.
  [[nodiscard]] WorkStore& work() { return work_; }
  /// Keeps a picture that a coming change brings in: it is written together with the settings that name it.
  void keepPicture(const PictureFile& picture);
  /// Writes a picture that is large enough to be felt, from another thread, where the study may be written; the change
  /// that names it comes after. It goes along when the study is saved under another name.
  class Store {
   public:
    explicit Store(const StudyDocument& document);
    /// @return whether it is in the study; otherwise (also while it is being copied) it has to be kept by `keepPicture`
    [[nodiscard]] bool put(const PictureFile& picture) const;
    [[nodiscard]] bool isFor(const StudyDocument& document) const { return document.place_ == place_; }

   private:
    std::shared_ptr<Place> place_;
  };
  /// A picture file by `Reference::source`, whether it is written yet or not. @throws Problem
  [[nodiscard]] std::shared_ptr<const Bytes> picture(const std::string& source) const;
  /// Gives what `picture` does, on any thread, as long as the study is where it is.
  [[nodiscard]] std::function<std::shared_ptr<const Bytes>(const std::string&)> pictureReader() const;
  [[nodiscard]] GuidePlace placeOf(const Guide& guide) const;

  /// Why something could not be written and waits to be tried again; empty if nothing was in the way.
  [[nodiscard]] const QString& unwritten() const { return unwritten_; }
  /// Writes what waits, however long that takes. @return whether all is written
  bool flush();
  /// What else goes into the file goes by it, too.
  [[nodiscard]] StudyWriter& writer() { return writer_; }
  [[nodiscard]] const StudyWriter& writer() const { return writer_; }
  /// What is not written when the window closes is not wanted: it does not come back when the study is opened next.
  void loseUnwritten() { lost_ = true; }

 signals:
  void changed(const hscaffold::Changes& changes);
  void replaced();  ///< another study is open; comes before `changed` with everything
  void closing();   ///< the open study is about to be left: what belongs to it should be kept now
  void pathChanged();
  void written();  ///< after trouble, or into another file: what waits may be tried again
  void problem(const QString& sentence);
  void notice(const QString& sentence);

 private:
  void createUntitledIn(const std::filesystem::path& folder, Unwritten unwritten);
  void adopt(std::unique_ptr<StudyFile> file, std::unique_ptr<StudyLock> lock, bool forLooking, Unwritten unwritten);
  void tellQuietly(const Changes& changes);
  /// Notes what was done, and has it written.
  void keep();
  void note();
  /// Has what is noted written as soon as nobody else writes into the file.
  void write();
  /// The same whoever else writes, waiting for it. @return whether all is written
  bool writeNow();
  void giveToWriter();
  /// Says once what is wrong if it is not written.
  void ended(const std::shared_ptr<const StudyEntry>& entry, const QString& wrong);
  void tidyFile();

  std::unique_ptr<StudyLock> lock_;
  std::unique_ptr<StudyFile> file_;
  StudyHistory history_;
  WorkStore work_;
  std::vector<PictureFile> pictures_;          ///< not written yet
  std::int64_t step_ = 0;                      ///< the last one that was noted
  std::shared_ptr<const StudyEntry> noted_;    ///< not written yet; null: all is that was noted
  std::shared_ptr<const StudyEntry> writing_;  ///< given to the writer
  std::shared_ptr<Place> place_;               ///< of the open study
  QTimer writeLater_, tryAgain_;
  bool dirty_ = false;  ///< something was done and is not noted yet
  bool forLooking_ = false, lost_ = false;
  QString unwritten_;
  StudyWriter writer_;
};

}  // namespace hscaffold::app
