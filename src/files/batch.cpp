#include "files/batch.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <mutex>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>
#include <sstream>
#include <thread>

#include "core/digest.h"
#include "core/frame/placement.h"
#include "core/image/xml_text.h"
#include "core/job/job_folder.h"
#include "core/job/pull.h"
#include "core/json_text.h"
#include "core/kinds.h"
#include "core/pose/find/network_finder.h"
#include "core/study/study_file.h"
#include "core/text.h"
#include "files/csv_text.h"
#include "files/picture_reader.h"
#include "files/study_job.h"

namespace hscaffold {
namespace {

namespace fs = std::filesystem;
using Clock = fs::file_time_type::clock;

constexpr int version = 1;
/// Of a picture as the list names it, and the ending of its copy.
constexpr std::size_t longestFileName = 255, longestEnding = 20;

std::string nameOf(int number) { return fmt::format("{:05}", number); }

/// Of five digits; none of anything else.
std::optional<int> numberIn(const std::string& name) {
  if (name.size() != 5 || name.find_first_not_of("0123456789") != std::string::npos) return {};
  return std::stoi(name);
}

/// Whom others see: host, process, and which of its claims.
std::string newToken() {
  static std::atomic<int> claims = 0;
  char host[256] = "host";
  ::gethostname(host, sizeof host - 1);
  std::string out = fmt::format("{}-{}-{}", host, ::getpid(), ++claims);
  // Names of files say no more than this.
  std::replace_if(
      out.begin(), out.end(), [](unsigned char c) { return std::isalnum(c) == 0 && c != '-'; }, '-');
  return out;
}

/// A file of the folder `doing`: "00012~host-7113-1.json".
struct Claim {
  int number = 0;
  std::string worker;
  fs::path path;
};

std::optional<Claim> claimIn(const fs::path& path) {
  const std::string name = path.stem().string();
  const auto mark = name.find('~');
  if (path.extension() != ".json" || mark == std::string::npos) return {};
  const auto number = numberIn(name.substr(0, mark));
  return number ? std::optional(Claim{*number, name.substr(mark + 1), path}) : std::nullopt;
}

std::vector<Claim> claimsIn(const fs::path& folder) {
  std::vector<Claim> out;
  std::error_code error;
  for (fs::directory_iterator it(folder / "doing", error), end; !error && it != end; it.increment(error))
    if (auto claim = claimIn(it->path())) out.push_back(std::move(*claim));
  std::sort(out.begin(), out.end(), [](const Claim& a, const Claim& b) { return a.number < b.number; });
  return out;
}

/// The files of a place by number, the lowest first.
std::vector<int> numbersIn(const fs::path& folder, const char* place) {
  std::vector<int> out;
  std::error_code error;
  for (fs::directory_iterator it(folder / place, error), end; !error && it != end; it.increment(error))
    if (const auto number = numberIn(it->path().stem().string()); number && it->path().extension() == ".json")
      out.push_back(*number);
  std::sort(out.begin(), out.end());
  return out;
}

/// Moves a file; false where it is not there any more: somebody else was first.
bool moved(const fs::path& from, const fs::path& to) {
  std::error_code error;
  fs::rename(from, to, error);
  if (!error) return true;
  if (error == std::errc::no_such_file_or_directory) return false;
  throw failed("Could not move " + from.string() + ": " + error.message() + ".");
}

/// A line at the end of an item's log: whole lines, whoever else writes.
void log(const fs::path& folder, int number, const std::string& event, const std::string& worker,
         const std::string& words = {}) {
  const nlohmann::json line{{"at", timeNow()}, {"event", event}, {"worker", worker}, {"words", words}};
  const std::string text = jsonText(line) + "\n";
  const auto path = folder / "log" / (nameOf(number) + ".jsonl");
  const int file = ::open(path.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644);
  const bool written = file >= 0 && ::write(file, text.data(), text.size()) == static_cast<ssize_t>(text.size());
  if (file >= 0) ::close(file);
  if (!written) throw failed("Could not write " + path.string() + ": is the disk full?");
}

std::vector<nlohmann::json> logOf(const fs::path& folder, int number) {
  std::vector<nlohmann::json> out;
  const auto path = folder / "log" / (nameOf(number) + ".jsonl");
  if (!fs::exists(path)) return out;
  std::istringstream lines(textOf(readWholeFile(path)));
  for (std::string line; std::getline(lines, line);)
    if (auto json = nlohmann::json::parse(line, nullptr, false); json.is_object()) out.push_back(std::move(json));
  return out;
}

struct Batch {
  fs::path folder;
  std::string replaced;            ///< id of the reference
  std::vector<std::string> names;  ///< of the pictures, by item
  std::vector<std::string> files;  ///< the same in the folder
};

Batch batchIn(const fs::path& folder) {
  const auto path = folder / "batch.json";
  if (!fs::exists(path)) throw badInput(folder.string() + " is no batch: \"batch plan\" makes one.");
  const auto json = nlohmann::json::parse(textOf(readWholeFile(path)), nullptr, false);
  Batch out{folder, {}, {}, {}};
  try {
    if (json.at("batch").get<int>() != version) throw badInput(folder.string() + " was made by another version.");
    out.replaced = json.at("replaced").get<std::string>();
    for (const auto& item : json.at("items")) {
      out.names.push_back(item.at("name").get<std::string>());
      out.files.push_back(item.at("file").get<std::string>());
      if (fs::path(out.files.back()).filename() != out.files.back())
        throw badInput(path.string() + " names a picture that is not in its folder.");
    }
  } catch (const nlohmann::json::exception&) {
    throw badInput(path.string() + " is damaged.");
  }
  return out;
}

/// Figures that are less sure in the mean are none.
constexpr double leastSureFigure = 0.3;

/// A picture that takes the place of the pattern's.
struct Frame {
  std::string name;
  Bytes bytes;
};

/// Figures that were found in a picture, by guide.
using FoundFigures = std::map<std::string, std::shared_ptr<const pose::Figures>>;

/// For each guide of figures on the replaced reference, who is in the picture that took its place.
FoundFigures figuresIn(const Batch& batch, const StudyState& pattern, const Frame& frame, const StopToken& stop) {
  FoundFigures out;
  const Reference* replaced = pattern.reference(batch.replaced);
  std::vector<const Guide*> asking;
  for (const Guide& guide : pattern.guides)
    if (guide.on && guide.reference == batch.replaced && kindOf(guide.kind).hasSlot(pose::figuresSlot))
      asking.push_back(&guide);
  if (asking.empty() || replaced == nullptr) return out;
  const auto picture = decodePicture(frame.bytes, frame.name).picture;
  const auto placed = place(picture, replaced->placement, pattern.frame, stop);
  pose::NetworkFinderTuning tuning;
  tuning.sought = pose::Sought::everybody;
  tuning.faintestFigure = leastSureFigure;
  auto figures = pose::tidied(pose::NetworkFinder(tuning).find(placed, stop));
  pose::Figures found{pattern.frame, frameFromReference(replaced->placement, picture.size(), pattern.frame), {}};
  for (std::size_t i = 0; i < figures.size(); ++i) {
    if (figures[i].name.empty()) figures[i].name = "Found " + std::to_string(figures.size() - i);
    found.figures.push_back(std::make_shared<const pose::Figure>(std::move(figures[i])));
  }
  const auto shared = std::make_shared<const pose::Figures>(std::move(found));
  for (const Guide* guide : asking) out[guide->id] = shared;
  return out;
}

/// The pattern with a picture in the place of the replaced one, and with the figures that were found in it.
JobSources sourcesFor(const Batch& batch, const StudyFile& file, const Frame& frame, const FoundFigures& found) {
  JobSources sources = sourcesIn(file);
  sources.pictures = [usual = sources.pictures, &batch, &frame](const RecipeReference& reference) {
    if (reference.id != batch.replaced) return usual(reference);
    return std::make_shared<const Image<Rgba16>>(decodePicture(frame.bytes, frame.name).picture);
  };
  sources.work = [usual = sources.work, replaced = batch.replaced, found](const Guide& guide) {
    TakenWork work = usual(guide);
    if (guide.reference != replaced) return work;
    work.retouch = nullptr;
    GuideWork own;
    if (const auto figures = found.find(guide.id); figures != found.end()) {
      own.put(pose::figuresSlot, std::any(figures->second));
      if (const std::any* inks = work.own.find(pose::inksSlot)) own.put(pose::inksSlot, *inks);
    }
    work.own = std::move(own);
    return work;
  };
  return sources;
}

Recipe recipeFor(const Batch& batch, const StudyState& pattern, const Frame& frame) {
  Recipe recipe = recipeOf(pattern);
  for (RecipeReference& reference : recipe.references)
    if (reference.id == batch.replaced) {
      reference.name = fittedText(frame.name, longestName);
      reference.content = digestOf(frame.bytes);
    }
  for (RecipeGuide& entry : recipe.guides) {
    if (entry.guide.reference != batch.replaced) continue;
    const std::string region = entry.guide.work.in(regionSlot);
    entry.guide.work = {};
    entry.guide.work.put(regionSlot, region);
  }
  recipe.engine.clear();
  return recipe;
}

/// Touches what is claimed; tells when somebody took it back.
class Heartbeat {
 public:
  Heartbeat(fs::path path, double patience, StopToken outer)
      : path_(std::move(path)),
        every_(std::max(0.2, patience / 6)),
        outer_(outer, [this] { source_.request_stop(); }),
        thread_([this](const StopToken& end) { beat(end); }) {}
  [[nodiscard]] StopToken token() const { return source_.get_token(); }
  [[nodiscard]] bool lost() const { return lost_; }

 private:
  void beat(const StopToken& end) {
    std::unique_lock lock(mutex_);
    const auto every = std::chrono::duration<double>(every_);
    while (!changed_.wait_for(lock, end, every, [] { return false; }) && !end.stop_requested()) {
      std::error_code error;
      fs::last_write_time(path_, Clock::now(), error);
      if (error != std::errc::no_such_file_or_directory) continue;
      lost_ = true;
      source_.request_stop();
      return;
    }
  }

  fs::path path_;
  double every_;
  std::stop_source source_;
  std::atomic<bool> lost_ = false;
  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::stop_callback<std::function<void()>> outer_;
  std::jthread thread_;
};

/// As COCO key points, so that a proof's figures can be brought in again; empty if none were looked for.
std::string figuresOf(const EngineJob& job, const FoundFigures& found) {
  for (std::size_t i = 0; i < job.inputs.size(); ++i) {
    const Guide& guide = job.recipe.guides[i].guide;
    const MapExport* form = exportFor(kindOf(guide.kind), "figures.json");
    if (found.contains(guide.id) && form != nullptr)
      return form->write({guide, job.inputs[i], job.recipe.mapsSize(), guide.name});
  }
  return {};
}

class Worker {
 public:
  Worker(const Batch& batch, Engine& engine, const BatchRun& run, StopToken stop,
         const std::function<void(const std::string&)>& said)
      : batch_(batch),
        engine_(engine),
        run_(run),
        stop_(std::move(stop)),
        said_(said),
        file_(StudyFile::open(batch.folder / "pattern.scaffold", StudyFile::Access::read)),
        state_(file_.readState()) {}

  /// @return whether there was something to do
  bool workOnce() {
    giveBackStale();
    for (const int number : numbersIn(batch_.folder, "todo")) {
      if (run_.item && number != *run_.item) continue;
      const std::string token = newToken();
      const fs::path mine = batch_.folder / "doing" / fmt::format("{}~{}.json", nameOf(number), token);
      if (!moved(batch_.folder / "todo" / (nameOf(number) + ".json"), mine)) continue;
      // The time of a file is that of its last change, not of its move.
      std::error_code error;
      fs::last_write_time(mine, Clock::now(), error);
      work(number, token, mine);
      return true;
    }
    return false;
  }

 private:
  void giveBackStale() {
    for (const Claim& claim : claimsIn(batch_.folder)) {
      std::error_code error;
      const auto touched = fs::last_write_time(claim.path, error);
      if (error) continue;
      const double age = std::chrono::duration<double>(Clock::now() - touched).count();
      if (age < run_.patience) continue;
      if (!moved(claim.path, batch_.folder / "todo" / (nameOf(claim.number) + ".json"))) continue;
      log(batch_.folder, claim.number, "taken back", claim.worker, fmt::format("nobody touched it for {:.0f} s", age));
      said_(fmt::format("{}: taken back from {}", nameOf(claim.number), claim.worker));
    }
  }

  /// @param mine  the file by which the item is held
  void work(int number, const std::string& token, fs::path mine) {
    const auto item = static_cast<std::size_t>(number - 1);
    const auto put = [&](const char* place) { return moved(mine, batch_.folder / place / (nameOf(number) + ".json")); };
    if (item >= batch_.files.size()) {
      put("failed");
      return;
    }
    log(batch_.folder, number, "begun", token);
    const auto begun = logOf(batch_.folder, number);
    const auto tries = std::count_if(begun.begin(), begun.end(),
                                     [](const nlohmann::json& line) { return line.value("event", "") == "begun"; });
    Heartbeat heart(mine, run_.patience, stop_);
    try {
      const Frame frame{batch_.names[item], readWholeFile(batch_.folder / "pictures" / batch_.files[item])};
      const FoundFigures found = figuresIn(batch_, state_, frame, heart.token());
      auto job = jobFrom(recipeFor(batch_, state_, frame), sourcesFor(batch_, file_, frame, found), heart.token());
      if (!found.empty())
        log(batch_.folder, number, "figures found", token,
            std::to_string(found.begin()->second->figures.size()) + " in " + frame.name);
      const std::string figures = figuresOf(job.job, found);
      const auto proof = pullProof(engine_, std::move(job.job), job.reference.get(), {}, heart.token());
      // Still ours, and for as long as it takes to write: nobody takes back what was touched just now.
      const fs::path finishing = batch_.folder / "doing" / fmt::format("{}~{}-writes.json", nameOf(number), token);
      std::error_code error;
      fs::last_write_time(mine, Clock::now(), error);
      if (!moved(mine, finishing)) return static_cast<void>(said_(nameOf(number) + ": somebody else has it by now"));
      mine = finishing;
      writeFileAtomically(batch_.folder / "proofs" / (nameOf(number) + ".png"), proof.png);
      if (!figures.empty())
        writeFileAtomically(batch_.folder / "proofs" / (nameOf(number) + ".figures.json"), bytesOf(figures));
      nlohmann::json result{{"engine", proof.info.recipe.engine},
                            {"milliseconds", proof.info.milliseconds},
                            {"worker", token},
                            {"made", proof.info.made},
                            {"holds", nlohmann::json::object()}};
      for (const RecipeGuide& entry : proof.info.recipe.guides)
        if (const auto hold = proof.info.holds.find(entry.guide.id); hold != proof.info.holds.end())
          result["holds"][entry.guide.name] = hold->second;
      if (proof.info.shift) result["shift"] = *proof.info.shift;
      writeFileAtomically(batch_.folder / "results" / (nameOf(number) + ".json"), bytesOf(jsonText(result, 2) + "\n"));
      put("done");
      log(batch_.folder, number, "done", token);
      said_(fmt::format("{}: {}  {:.0f} ms", nameOf(number), batch_.names[item], proof.info.milliseconds));
    } catch (const Cancelled&) {
      if (heart.lost()) return;
      if (put("todo")) log(batch_.folder, number, "given back", token, "stopped");
      throw;
    } catch (const Problem& problem) {
      const bool again = problem.passes() && tries < run_.mostTries;
      if (put(again ? "todo" : "failed")) log(batch_.folder, number, "failed", token, problem.what());
      said_(fmt::format("{}: {}", nameOf(number), problem.what()));
    }
  }

  const Batch& batch_;
  Engine& engine_;
  const BatchRun& run_;
  StopToken stop_;
  const std::function<void(const std::string&)>& said_;
  StudyFile file_;
  StudyState state_;
};

std::string cell(const std::string& text) {
  return text.find_first_of(",\"\n\r") == std::string::npos ? text : quoted(text);
}

std::string whole(const std::optional<double>& value) { return value ? fmt::format("{:.0f}", *value) : std::string(); }

/// A folder in the making, which goes away if it was not put in place.
struct Sweeping {
  fs::path folder;
  ~Sweeping() {
    std::error_code ignored;
    fs::remove_all(folder, ignored);
  }
};

}  // namespace

const char* nameOf(BatchItem::State state) {
  constexpr std::array names = {"todo", "doing", "done", "failed"};
  return names[static_cast<std::size_t>(state)];
}

std::vector<std::string> planBatch(const BatchPlan& plan, const fs::path& folder) {
  if (plan.references.empty()) throw badInput("Name the pictures: --references FILE ...");
  if (plan.references.size() > 99'999) throw badInput("A batch has up to 99999 pictures.");
  if (fs::exists(folder)) throw badInput(folder.string() + " is there already: choose another name.");
  const auto file = StudyFile::open(plan.study, StudyFile::Access::read);
  const StudyState state = file.readState();
  if (plan.replaced < 1 || plan.replaced > std::ssize(state.references))
    throw badInput(fmt::format("The study has {} references: which of them the pictures take the place of is 1 to {}.",
                               state.references.size(), state.references.size()));
  const std::string replaced = state.references[static_cast<std::size_t>(plan.replaced - 1)].id;
  std::vector<std::string> notes;
  for (const Guide& guide : state.guides) {
    if (!guide.on || guide.reference != replaced) continue;
    if (kindOf(guide.kind).hasSlot(pose::figuresSlot)) {
      if (!pose::canFind(pose::Sought::everybody))
        throw badInput(guide.name +
                       " needs figures, and the networks that find them in each picture are not here. Turn it off, or "
                       "take its figures to a guide without a reference.");
      notes.push_back(guide.name + ": its figures are found anew in each picture.");
      continue;
    }
    const auto& work = guide.work.all();
    if (std::any_of(work.begin(), work.end(), [](const auto& slot) { return slot.first != regionSlot; }))
      notes.push_back(guide.name + ": hand work on the replaced picture is left out.");
  }
  if (std::none_of(state.guides.begin(), state.guides.end(),
                   [&](const Guide& guide) { return guide.on && guide.reference == replaced; }))
    throw badInput("No guide that is on is made from the reference that is replaced: all proofs would be alike.");
  // Every picture is looked at before anything is made.
  for (const fs::path& path : plan.references) static_cast<void>(readPicture(path));
  // Made beside it and put in place whole.
  const fs::path place = folder.has_filename() ? folder : folder.parent_path(), making = place.string() + ".making";
  std::error_code error;
  fs::remove_all(making, error);
  const Sweeping sweeping{making};
  for (const char* each : {"todo", "doing", "done", "failed", "pictures", "proofs", "results", "log"})
    makeFolder(making / each);
  file.copyTo(making / "pattern.scaffold");
  nlohmann::json json{{"batch", version}, {"replaced", replaced}, {"items", nlohmann::json::array()}};
  int number = 0;
  for (const fs::path& path : plan.references) {
    // By names that the list can hold, whatever the picture's own is made of.
    const std::string copy = nameOf(++number) + fittedText(path.extension().string(), longestEnding);
    writeFileAtomically(making / "pictures" / copy, readWholeFile(path));
    json["items"].push_back({{"name", fittedText(path.filename().string(), longestFileName)}, {"file", copy}});
    writeFileAtomically(making / "todo" / (nameOf(number) + ".json"), bytesOf("{}\n"));
  }
  writeFileAtomically(making / "batch.json", bytesOf(jsonText(json, 2) + "\n"));
  fs::rename(making, place, error);
  if (error) throw failed("Could not make " + folder.string() + ": " + error.message() + ".");
  return notes;
}

std::vector<BatchItem> batchItems(const fs::path& folder) {
  const Batch batch = batchIn(folder);
  std::vector<BatchItem> items;
  for (std::size_t i = 0; i < batch.names.size(); ++i) {
    BatchItem item;
    item.number = static_cast<int>(i) + 1;
    item.name = batch.names[i];
    items.push_back(std::move(item));
  }
  const auto mark = [&](int number, BatchItem::State state) {
    if (number >= 1 && number <= std::ssize(items)) items[static_cast<std::size_t>(number - 1)].state = state;
  };
  for (const Claim& claim : claimsIn(folder)) mark(claim.number, BatchItem::State::doing);
  for (const int number : numbersIn(folder, "failed")) mark(number, BatchItem::State::failed);
  for (const int number : numbersIn(folder, "done")) mark(number, BatchItem::State::done);
  for (BatchItem& item : items) {
    int begun = 0;
    for (const auto& line : logOf(folder, item.number)) {
      const std::string event = line.value("event", "");
      if (event == "begun") ++begun;
      item.worker = line.value("worker", "");
      if (event == "failed" || event == "taken back") item.trouble = line.value("words", "");
    }
    item.retries = std::max(0, begun - 1);
    const auto result = folder / "results" / (nameOf(item.number) + ".json");
    if (item.state != BatchItem::State::done || !fs::exists(result)) continue;
    const auto json = nlohmann::json::parse(textOf(readWholeFile(result)), nullptr, false);
    if (!json.is_object()) continue;
    item.engine = json.value("engine", "");
    item.milliseconds = json.value("milliseconds", 0.0);
    if (json.contains("shift") && json["shift"].is_number()) item.shift = json["shift"].get<double>();
    double sum = 0;
    if (json.contains("holds") && json["holds"].is_object())
      for (const auto& [name, hold] : json["holds"].items())
        if (hold.is_number()) sum += item.holds[name] = hold.get<double>();
    if (!item.holds.empty()) item.hold = sum / static_cast<double>(item.holds.size());
  }
  return items;
}

void runBatch(const fs::path& folder, Engine& engine, const BatchRun& run, StopToken stop,
              const std::function<void(const std::string&)>& said) {
  const Batch batch = batchIn(folder);
  if (run.item && (*run.item < 1 || *run.item > std::ssize(batch.names)))
    throw badInput(fmt::format("The batch has items 1 to {}.", batch.names.size()));
  std::mutex mutex;
  std::exception_ptr trouble;
  std::stop_source ended;
  const std::stop_callback outer(stop, [&] { ended.request_stop(); });
  {
    std::vector<std::jthread> lanes;
    for (int lane = 0; lane < run.jobs; ++lane)
      lanes.emplace_back([&] {
        try {
          Worker worker(batch, engine, run, ended.get_token(), said);
          for (;;) {
            throwIfStopped(ended.get_token());
            if (worker.workOnce()) continue;
            // Others may give up what they have: their items are waited for.
            const auto claims = claimsIn(folder);
            const bool waits = std::any_of(claims.begin(), claims.end(),
                                           [&](const Claim& claim) { return !run.item || claim.number == *run.item; });
            if (!waits) return;
            std::this_thread::sleep_for(std::chrono::milliseconds(200));
          }
        } catch (...) {
          const std::lock_guard lock(mutex);
          if (!trouble) trouble = std::current_exception();
          ended.request_stop();
        }
      });
  }
  if (trouble) std::rethrow_exception(trouble);
  if (numbersIn(folder, "todo").empty() && claimsIn(folder).empty()) writeBatchReport(folder);
}

void writeBatchReport(const fs::path& folder) {
  const auto items = batchItems(folder);
  std::string table = "number,picture,state,hold,shift,milliseconds,engine,retries,trouble\n";
  pugi::xml_document page;
  page.append_child(pugi::node_doctype).set_value("html");
  auto html = page.append_child("html");
  html.append_attribute("lang").set_value("en");
  auto head = html.append_child("head");
  head.append_child("meta").append_attribute("charset").set_value("utf-8");
  head.append_child("title").text().set("Batch");
  head.append_child("style").text().set(
      "body{font:15px sans-serif;margin:2em;background:#2b2a28;color:#eee}td,th{padding:4px 12px 4px 0;"
      "text-align:left;vertical-align:top}img{height:150px}");
  auto body = html.append_child("body");
  const auto done = std::count_if(items.begin(), items.end(),
                                  [](const BatchItem& item) { return item.state == BatchItem::State::done; });
  body.append_child("h1").text().set(fmt::format("{} of {} pictures", done, items.size()).c_str());
  auto rows = body.append_child("table");
  const auto row = [&](const char* kind, const std::vector<std::string>& cells) {
    auto line = rows.append_child("tr");
    for (const std::string& text : cells) line.append_child(kind).text().set(text.c_str());
    return line;
  };
  row("th", {"", "picture", "state", "hold", "shift", "seconds", "engine", "retries", ""});
  for (const BatchItem& item : items) {
    const char* state = nameOf(item.state);
    table += fmt::format("{},{},{},{},{},{:.0f},{},{},{}\n", item.number, cell(item.name), state, whole(item.hold),
                         whole(item.shift), item.milliseconds, cell(item.engine), item.retries, cell(item.trouble));
    auto line = row("td", {"", item.name, state, whole(item.hold), whole(item.shift),
                           item.state == BatchItem::State::done ? fmt::format("{:.1f}", item.milliseconds / 1000) : "",
                           item.engine, std::to_string(item.retries), item.trouble});
    if (item.state != BatchItem::State::done) continue;
    auto image = line.first_child().append_child("img");
    image.append_attribute("src").set_value(("proofs/" + nameOf(item.number) + ".png").c_str());
    image.append_attribute("alt").set_value(item.name.c_str());
    image.append_attribute("loading").set_value("lazy");
  }
  writeFileAtomically(folder / "table.csv", bytesOf(table));
  writeFileAtomically(folder / "index.html", bytesOf(textOf(page, pugi::format_raw | pugi::format_no_declaration)));
}

}  // namespace hscaffold
