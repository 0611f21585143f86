/// What a program has done and the disk has not taken yet, kept where it outlives the program that is killed, and costs
/// no wait: among the files that the system keeps in memory (XDG_RUNTIME_DIR, /dev/shm), otherwise in a temporary
/// folder. They are known by the study's file itself (device and inode), and taken up by who opens it next for writing.
/// What cannot be noted is not noted: then the disk alone counts.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/study/study_entry.h"

namespace hscaffold {

/// Which file this is, whatever path leads there: device and inode. Empty if there is none.
std::string identityOf(const std::filesystem::path& file);

class StudyNotes {
 public:
  enum class Name { step, shelf };  ///< settings with what they name; proofs and sheets
  StudyNotes() = default;           ///< notes nothing
  explicit StudyNotes(const std::filesystem::path& study);

  /// Over the note of this name.
  /// @param written  the step that the study holds already
  void put(Name name, std::int64_t written, const StudyEntry& entry) const;
  void drop(Name name) const;
  void dropAll() const;

  /// Whole notes that go on from what the study holds, in the order in which they are to be written. Those that do not
  /// (an older copy was put in its place) are not among them.
  [[nodiscard]] std::vector<StudyEntry> after(std::int64_t step) const;

  /// Where they lie. Made, for its user alone, where it is missing; empty if there can be none.
  static std::filesystem::path folder();

 private:
  [[nodiscard]] std::filesystem::path fileOf(Name name, const char* ending = "") const;
  std::filesystem::path study_, stem_;  ///< without a stem nothing is noted
};

/// @return false where the bytes are no whole note.
bool readNote(std::span<const std::byte> bytes, StudyEntry& entry, std::int64_t& written, std::string& study);
Bytes noteOf(const StudyEntry& entry, std::int64_t written, const std::string& study);

}  // namespace hscaffold
