// hscaffold batch plan|run|status: one study through many pictures.
#include <fmt/format.h>

#include <atomic>
#include <csignal>
#include <iostream>
#include <mutex>
#include <nlohmann/json.hpp>
#include <thread>

#include "cli/commands.h"
#include "cli/engine_choice.h"
#include "cli/study_commands.h"
#include "core/engine/registry.h"
#include "core/json_text.h"
#include "core/study/study_file.h"
#include "files/batch.h"

namespace hscaffold {
namespace {

std::atomic<bool> interrupted = false;

/// Signals that ask to end are told to the workers, which give back what they have.
class Interrupts {
 public:
  explicit Interrupts(std::stop_source& source)
      : watching_([&source](const StopToken& end) {
          while (!end.stop_requested() && !interrupted) std::this_thread::sleep_for(std::chrono::milliseconds(50));
          if (interrupted) source.request_stop();
        }) {
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) std::signal(signal, [](int) { interrupted = true; });
  }

 private:
  std::jthread watching_;
};

struct PlanOptions {
  std::string study, out;
  std::vector<std::string> references;
  std::int64_t replaced = 1;
};

struct RunOptions {
  std::string folder;
  EngineChoice engine;
  std::int64_t item = 0, jobs = 1;
  double patience = batchPatience.usual;
};

void runPlan(const PlanOptions& options) {
  BatchPlan plan;
  plan.study = options.study;
  plan.references.assign(options.references.begin(), options.references.end());
  plan.replaced = static_cast<int>(options.replaced);
  for (const std::string& note : planBatch(plan, options.out)) std::cerr << note << "\n";
  std::cerr << fmt::format("{} pictures planned: hscaffold batch run {}\n", plan.references.size(), options.out);
}

void runRun(const RunOptions& options) {
  const std::filesystem::path folder = options.folder;
  std::string usual = builtInEngine;
  if (std::filesystem::exists(folder / "pattern.scaffold"))
    usual = StudyFile::open(folder / "pattern.scaffold", StudyFile::Access::read).readState().engine;
  BatchRun run;
  if (options.item > 0) run.item = static_cast<int>(options.item);
  run.jobs = static_cast<int>(options.jobs);
  run.patience = options.patience;
  std::stop_source stop;
  const Interrupts interrupts(stop);
  std::mutex mutex;
  try {
    runBatch(folder, *options.engine.engine(usual), run, stop.get_token(), [&](const std::string& line) {
      const std::lock_guard lock(mutex);
      std::cerr << line << std::endl;
    });
  } catch (const Cancelled&) {
    throw failed("Stopped: what was begun was given back, and can be gone on with.");
  }
  const auto items = batchItems(folder);
  const auto lost = std::count_if(items.begin(), items.end(), [&](const BatchItem& item) {
    return item.state == BatchItem::State::failed && (!run.item || item.number == *run.item);
  });
  if (lost > 0) throw failed(fmt::format("{} of {} pictures failed: \"batch status\" says why.", lost, items.size()));
}

void runStatus(const std::string& folder, bool json) {
  const auto items = batchItems(folder);
  std::array<int, 4> counts{};
  auto list = nlohmann::json::array();
  for (const BatchItem& item : items) {
    ++counts[static_cast<std::size_t>(item.state)];
    if (json) {
      list.push_back({{"number", item.number},
                      {"picture", item.name},
                      {"state", nameOf(item.state)},
                      {"worker", item.worker},
                      {"retries", item.retries},
                      {"trouble", item.trouble},
                      {"engine", item.engine},
                      {"holds", item.holds},
                      {"milliseconds", item.milliseconds}});
      if (item.shift) list.back()["shift"] = *item.shift;
      continue;
    }
    std::cout << fmt::format("{:5}  {:8}  {:30}", item.number, nameOf(item.state), item.name);
    if (item.hold) std::cout << fmt::format("  hold {:.0f}", *item.hold);
    if (item.shift) std::cout << fmt::format(", shift {:.0f}, {:.1f} s", *item.shift, item.milliseconds / 1000);
    if (item.retries > 0) std::cout << fmt::format(", begun {} times", item.retries + 1);
    if (item.state == BatchItem::State::doing) std::cout << "  by " << item.worker;
    if (item.state != BatchItem::State::done && !item.trouble.empty()) std::cout << "  (" << item.trouble << ")";
    std::cout << "\n";
  }
  if (json)
    std::cout << jsonText(list, 2) << "\n";
  else
    std::cout << fmt::format("{} to do, {} being done, {} done, {} failed\n", counts[0], counts[1], counts[2],
                             counts[3]);
}

}  // namespace

void addBatchCommand(Command& root, const bool& json) {
  auto batch = root.add("batch", "One study through many pictures, by as many workers as see the folder");
  auto plan = batch.add("plan", "Make the folder: the study as the pattern, and one item a picture");
  auto planned = std::make_shared<PlanOptions>();
  plan.text("STUDY", planned->study, "The pattern: tuning, weights, ranges, brief and seed; it is copied").required();
  plan.texts("--references", planned->references, "The pictures, in the order of their items")
      .required()
      .severalAtOnce();
  plan.text("-o,--out", planned->out, "The folder, which is not there yet").required();
  plan.whole("--replace", planned->replaced, "Which of the study's references they take the place of", {1, 1000});
  plan.run([planned] { runPlan(*planned); });

  auto run = batch.add("run", "Do what is to be done there, beside any others that do; again after a stop");
  auto options = std::make_shared<RunOptions>();
  run.text("FOLDER", options->folder, "The batch").required();
  run.whole("--item", options->item, "This one alone", {1, 99'999});
  run.whole("--jobs", options->jobs, "So many at a time", batchJobs);
  run.number("--patience", options->patience,
             "Seconds after which what a worker does not touch any more is given to others", batchPatience);
  options->engine.addTo(run);
  run.run([options] { runRun(*options); });

  auto status = batch.add("status", "Say how far it is");
  auto folder = std::make_shared<std::string>();
  status.text("FOLDER", *folder, "The batch").required();
  status.run([folder, &json] { runStatus(*folder, json); });
}

}  // namespace hscaffold
