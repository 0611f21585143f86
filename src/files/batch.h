/// Nights of frames: one study as the pattern for many pictures, done by any number of workers that see one folder.
/// Every item is a small file that lies in one of four folders (todo, doing, done, failed). It is claimed, finished and
/// given back by renaming it, so that each is done once whoever takes part. A worker keeps touching what it has
/// claimed; what nobody touches any more is given back by the others.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/engine/engine.h"
#include "core/limits.h"

namespace hscaffold {

inline constexpr Limits batchJobs{1, 64, 1, 1, 0}, batchPatience{2, 86'400, 60, 1, 0};

struct BatchPlan {
  std::filesystem::path study;                    ///< the pattern: tuning, weights, ranges, brief, seed
  std::vector<std::filesystem::path> references;  ///< one item each, in this order
  int replaced = 1;                               ///< which of the study's references they take the place of, from 1
};
/// Makes the folder, with copies of the study and of all pictures: it can be moved. Hand work on the replaced picture
/// is left out, regions stay.
/// @return what is left out, one sentence each. @throws Problem (badInput) also if the folder is there already.
std::vector<std::string> planBatch(const BatchPlan& plan, const std::filesystem::path& folder);

/// Where an item is and what came of it.
struct BatchItem {
  int number = 0;    ///< from 1
  std::string name;  ///< of its picture
  enum class State { todo, doing, done, failed } state = State::todo;
  std::string worker;                   ///< host and process that works on it, or did so last
  int retries = 0;                      ///< how often it was begun again
  std::string trouble;                  ///< what went wrong last
  std::string engine;                   ///< that made the proof
  std::map<std::string, double> holds;  ///< by guide
  std::optional<double> hold, shift;
  double milliseconds = 0;
};
const char* nameOf(BatchItem::State state);
/// In order of numbers. @throws Problem (badInput) if the folder is no batch.
std::vector<BatchItem> batchItems(const std::filesystem::path& folder);

struct BatchRun {
  std::optional<int> item;  ///< this one alone
  int jobs = 1;             ///< at a time, in this process
  double patience = 60;     ///< seconds after which what nobody touches is given back
  int mostTries = 3;        ///< of an item whose engine could not just then
};
/// Works until nothing is left to do and nobody else works any more, then writes the table and the page. What was
/// claimed is given back when it is stopped. @param said  from any thread, a line at a time
/// @throws Problem; Cancelled
void runBatch(const std::filesystem::path& folder, Engine& engine, const BatchRun& run, StopToken stop,
              const std::function<void(const std::string&)>& said);
/// `table.csv`, and `index.html`, which shows the proofs.
void writeBatchReport(const std::filesystem::path& folder);

}  // namespace hscaffold
