/// A `.scaffold` file: an SQLite database with the settings as JSON, references as the files they came from, and proofs
/// as PNG. Tables are described in docs/study-file.md. Every call that writes is one transaction.
#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "core/retouch/edit_store.h"
#include "core/sheet/sheet.h"
#include "core/study/study.h"

struct sqlite3;

namespace hscaffold {

inline constexpr int studyApplicationId = 0x48536366;  ///< "HScf"
inline constexpr int studyVersion = 4;

class StudyFile {
 public:
  enum class Access {
    write,  ///< and read; brings older versions forward
    read    ///< for looking: nothing is written, whatever is called
  };
  /// Makes a new study; an existing file of that name is replaced only once the new one is complete.
  static StudyFile create(const std::filesystem::path& path, const StudyState& state);
  /// @throws Problem (badInput) if the file is missing, not a study, damaged or from a newer version; it is not
  /// changed.
  static StudyFile open(const std::filesystem::path& path, Access access = Access::write);
  StudyFile(StudyFile&&) noexcept;
  StudyFile& operator=(StudyFile&&) noexcept;
  ~StudyFile();

  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] bool writable() const { return writable_; }
  [[nodiscard]] StudyState readState() const;
  /// Settings and the hand work that they name, in one transaction.
  void writeState(const StudyState& state, std::span<const EditPart> edits = {});
  /// A piece of hand work; empty if there is none of that name.
  [[nodiscard]] Bytes edit(const std::string& id) const;
  /// Takes out all hand work but this.
  void keepEdits(const std::set<std::string>& ids);

  /// The picture file of a reference, as it was brought in. Once stored it is never changed.
  void addReferenceFile(const std::string& id, std::span<const std::byte> bytes);
  [[nodiscard]] Bytes referenceFile(const std::string& id) const;

  /// Under the number that `info` has; 0: under the next one. @return the proof's number. `png` carries its recipe in its texts.
  std::int64_t addProof(const ProofInfo& info, std::span<const std::byte> png, std::span<const std::byte> thumbnailPng);
  [[nodiscard]] std::vector<ProofInfo> proofs() const;  ///< oldest first
  [[nodiscard]] Bytes proofPng(std::int64_t number) const;
  [[nodiscard]] Bytes proofThumbnail(std::int64_t number) const;

  /// @return the sheet's number; that of `info` is not used.
  std::int64_t addSheet(const SheetInfo& info);
  [[nodiscard]] std::vector<SheetInfo> sheets() const;  ///< oldest first
  /// Which of its cells are still to be pulled.
  void setWaiting(std::int64_t sheet, std::span<const int> cells);

  /// A complete copy under another name; this file stays open and unchanged. An existing file is replaced when done.
  void copyTo(const std::filesystem::path& path) const;

 private:
  StudyFile(std::filesystem::path path, sqlite3* database);
  std::filesystem::path path_;
  sqlite3* database_ = nullptr;
  bool writable_ = true;
};

}  // namespace hscaffold
