/// A `.scaffold` file: an SQLite database with the settings as JSON, references as the files they came from, and proofs
/// as PNG. Tables are described in docs/study-file.md. Every call that writes is one transaction.
#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "core/retouch/work_store.h"
#include "core/sheet/sheet.h"
#include "core/study/study_entry.h"

namespace hscaffold {

inline constexpr int studyApplicationId = 0x48536366;  ///< "HScf"
inline constexpr int studyVersion = 7;

class StudyFile {
 public:
  enum class Access {
    write,       ///< and read; brings older versions forward
    writeLater,  ///< the same, but older versions only by `bringForward`: until then nothing may be written
    read         ///< for looking: nothing is written, whatever is called
  };
  enum class Existing { replace, keep };
  /// Makes a new study, whole or not at all. @throws Problem; (badInput) if there is one that is to be kept.
  static StudyFile create(const std::filesystem::path& path, const StudyState& state,
                          std::span<const PictureFile> pictures = {}, std::span<const WorkPart> parts = {},
                          Existing existing = Existing::replace);
  /// @throws Problem (badInput) if the file is missing, not a study, damaged or from a newer version; it is not
  /// changed.
  static StudyFile open(const std::filesystem::path& path, Access access = Access::write);
  /// For files opened to be written later. @throws Problem
  void bringForward();
  /// One more connection, for another thread, to a study that is open: nothing is looked at again. @throws Problem
  static StudyFile another(const std::filesystem::path& path);
  StudyFile(StudyFile&&) noexcept;
  StudyFile& operator=(StudyFile&&) noexcept;
  ~StudyFile();

  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] bool writable() const { return writable_; }
  /// One field that is wrong is mended or left out, and `mended` says so.
  [[nodiscard]] StudyState readState() const;
  /// How often settings were written, counted from a number that is the study's own; 0 in one that was never counted.
  [[nodiscard]] std::int64_t step() const;
  /// All of it or, where it throws, nothing. @throws Problem
  void write(const StudyEntry& entry);
  /// Settings, with the hand work and the pictures that they name, as the next step.
  void writeState(const StudyState& state, std::span<const WorkPart> parts = {},
                  std::span<const PictureFile> pictures = {});
  /// A piece of hand work; empty if there is none of that name.
  [[nodiscard]] Bytes work(const std::string& id) const;
  /// Takes out all hand work and all pictures but these.
  void keepOnly(const std::set<std::string>& work, const std::set<std::string>& pictures);

  /// Puts a picture into the study at `path` by a connection of its own, for another thread than the one that works
  /// with the file: it is kept by its content, and nothing names it before the settings do. @throws Problem
  static void addPicture(const std::filesystem::path& path, const PictureFile& picture);
  /// A picture file by `Reference::source`. @throws Problem (badInput) if it is not there.
  [[nodiscard]] Bytes picture(const std::string& source) const;
  /// The same of the study at `path`, by a connection of its own, for other threads. @throws Problem
  [[nodiscard]] static Bytes picture(const std::filesystem::path& path, const std::string& source);

  /// Under the number that `info` has; 0: under the next one. @return the proof's number. `png` carries its recipe in
  /// its texts.
  std::int64_t addProof(const ProofInfo& info, std::span<const std::byte> png, std::span<const std::byte> thumbnailPng);
  /// Oldest first. One that cannot be read is left out, and `mended` says so.
  [[nodiscard]] std::vector<ProofInfo> proofs() const;
  /// The largest number of a proof, whether it can be read or not; 0 without any.
  [[nodiscard]] std::int64_t lastProof() const;
  [[nodiscard]] Bytes proofPng(std::int64_t number) const;
  [[nodiscard]] Bytes proofThumbnail(std::int64_t number) const;
  /// The same of the study at `path`, by a connection of its own, for other threads. @throws Problem
  [[nodiscard]] static Bytes proofPng(const std::filesystem::path& path, std::int64_t number);
  [[nodiscard]] static Bytes proofThumbnail(const std::filesystem::path& path, std::int64_t number);

  /// @return the sheet's number; that of `info` is not used.
  std::int64_t addSheet(const SheetInfo& info);
  /// Oldest first; likewise.
  [[nodiscard]] std::vector<SheetInfo> sheets() const;
  /// The largest number of a sheet, whether it can be read or not; 0 without any.
  [[nodiscard]] std::int64_t lastSheet() const;
  /// Which of its cells are still to be pulled.
  void setWaiting(std::int64_t sheet, std::span<const int> cells);

  /// Reads proofs and sheets now, to be handed out by the next call for them: on the thread on which the file is
  /// opened.
  void readAhead();

  /// What was mended or left out so far while reading, each sentence once.
  [[nodiscard]] const std::vector<std::string>& mended() const { return mended_; }

  /// A complete copy under another name, safe on the disk when this returns; this file stays open and unchanged. An
  /// existing file is replaced when done.
  void copyTo(const std::filesystem::path& path) const { copy(path_, path); }
  /// The same by a connection of its own, for other threads; nobody may write into `from` meanwhile.
  static void copy(const std::filesystem::path& from, const std::filesystem::path& to);

 private:
  struct Database;
  StudyFile(std::filesystem::path path, std::unique_ptr<Database> database, bool writable);
  template <typename Call>
  auto guarded(Call&& call) const;
  template <typename Call>
  Bytes read(Call&& call) const;
  void note(const Mended& mended) const;
  /// What a program that was killed had done and not written: it is written, or shown to who only looks.
  void takeUpNotes();

  std::filesystem::path path_;
  std::unique_ptr<Database> database_;
  bool writable_ = true;
  StudyEntry noted_;  ///< of who only looks
  mutable std::vector<std::string> mended_;
  mutable std::unique_ptr<std::vector<ProofInfo>> proofsAhead_;
  mutable std::unique_ptr<std::vector<SheetInfo>> sheetsAhead_;
};

}  // namespace hscaffold
