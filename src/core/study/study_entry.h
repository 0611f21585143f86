/// What is written into a study in one transaction, in the form in which the file has it.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/retouch/work_store.h"
#include "core/sheet/sheet.h"
#include "core/study/study.h"

namespace hscaffold {

/// A picture as it came, kept by its content; shared, since it may be large and waits until it is written.
struct PictureFile {
  std::string content;  ///< `digestOf` its bytes
  std::shared_ptr<const Bytes> bytes;
};
PictureFile pictureFile(Bytes bytes);

/// A row of `proofs` (see docs/study-file.md).
struct ProofRow {
  std::int64_t number = 0;  ///< 0: the next one
  std::string made;
  double milliseconds = 0;
  std::string recipe, holds;  ///< JSON
  Bytes png, thumbnail;
  std::int64_t sheet = 0;
  int cell = 0;
  std::optional<double> shift;
};
ProofRow rowOf(const ProofInfo& info, Bytes png, Bytes thumbnail);

/// A row of `sheets`: a new one, or one that grew or came to its end.
struct SheetRow {
  std::int64_t number = 0;    ///< 0: the next one
  std::string plan, waiting;  ///< JSON
  std::string made;
};
SheetRow rowOf(const SheetInfo& info);

struct StudyEntry {
  std::string settings;   ///< JSON, see `settingsText`; empty: none
  std::int64_t step = 0;  ///< their number, see `StudyFile::step`; larger than any before
  std::vector<WorkPart> parts;
  std::vector<PictureFile> pictures;
  std::vector<SheetRow> sheets;
  std::vector<ProofRow> proofs;
};
std::string settingsText(const StudyState& state);
/// Where a study begins to count its steps: at a number that no other one is near.
std::int64_t firstStep();

}  // namespace hscaffold
