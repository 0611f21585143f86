#include "files/program_engine.h"

#include <fmt/format.h>
#include <unistd.h>
#include <csignal>

#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <algorithm>
#include <charconv>
#include <deque>
#include <set>

#include "core/engine/registry.h"
#include "core/image/narrow.h"
#include "core/image/png.h"
#include "core/job/job_folder.h"
#include "core/job/maps_wanted.h"
#include "core/kinds.h"

namespace hscaffold {
namespace {

constexpr int look = 20;        ///< milliseconds between two looks at it
constexpr int timeToEnd = 150;  ///< milliseconds between asking it to end and ending it
constexpr std::size_t lastLines = 6, longestLine = 300;
constexpr std::uintmax_t largestPicture = std::uintmax_t{512} << 20;

const char* const jobPlace = "{job}";
const char* const outPlace = "{out}";

/// A program that runs, with all that it has started.
class Running {
 public:
  Running(const QString& program, const QStringList& arguments) {
    // A group of its own: what it has started is ended with it.
    process_.setChildProcessModifier([] { ::setpgid(0, 0); });
    process_.start(program, arguments);
  }
  Running(const Running&) = delete;
  Running& operator=(const Running&) = delete;
  ~Running() { end(); }

  QProcess& process() { return process_; }
  bool started() {
    if (!process_.waitForStarted(10'000)) return false;
    group_ = static_cast<pid_t>(process_.processId());
    return true;
  }
  void end() {
    if (group_ <= 0) return;
    if (process_.state() != QProcess::NotRunning) {
      ::kill(-group_, SIGTERM);
      process_.waitForFinished(timeToEnd);
    }
    ::kill(-group_, SIGKILL);
    process_.waitForFinished(2000);
  }

 private:
  QProcess process_;
  pid_t group_ = 0;
};

/// Text that comes in pieces, as lines; ones that are too long are cut.
class Lines {
 public:
  template <typename Take>
  void add(const QByteArray& bytes, const Take& take) {
    for (const char c : bytes) {
      if (c != '\n') {
        if (line_.size() < longestLine) line_ += c;
        continue;
      }
      take(line_);
      line_.clear();
    }
  }
  template <typename Take>
  void end(const Take& take) {
    if (!line_.empty()) take(line_);
    line_.clear();
  }

 private:
  std::string line_;
};

/// "step 7/20"
std::optional<std::pair<int, int>> stepIn(std::string_view line) {
  constexpr std::string_view begins = "step ";
  if (!line.starts_with(begins)) return {};
  line.remove_prefix(begins.size());
  int step = 0, steps = 0;
  const auto first = std::from_chars(line.data(), line.data() + line.size(), step);
  if (first.ec != std::errc() || first.ptr == line.data() + line.size() || *first.ptr != '/') return {};
  const auto second = std::from_chars(first.ptr + 1, line.data() + line.size(), steps);
  if (second.ec != std::errc() || steps < 1 || step < 0) return {};
  return std::pair(std::min(step, steps), steps);
}

/// A plain file of that name in the folder itself; links and what lies elsewhere are none.
std::optional<std::filesystem::path> plainFile(const std::filesystem::path& folder, const std::string& name) {
  const std::filesystem::path path = folder / name;
  std::error_code error;
  if (name.empty() || path.parent_path() != folder || path.filename() != name) return {};
  if (std::filesystem::symlink_status(path, error).type() != std::filesystem::file_type::regular) return {};
  const auto size = std::filesystem::file_size(path, error);
  return !error && size <= largestPicture ? std::optional(path) : std::nullopt;
}

Image<Rgb8> pictureIn(const std::filesystem::path& path) { return inEightBits(decodePng(readWholeFile(path)).picture); }

}  // namespace

void checkSetup(const ProgramSetup& setup) {
  if (setup.name.empty()) throw badInput("The engine needs a name.");
  if (setup.name == builtInEngine) throw badInput("\"stand-in\" is the built-in engine's name: choose another one.");
  const QStringList words = QProcess::splitCommand(QString::fromStdString(setup.command));
  if (words.isEmpty()) throw badInput("Say which program is to be run.");
  for (const char* place : {jobPlace, outPlace})
    if (setup.command.find(place) == std::string::npos)
      throw badInput(fmt::format("The command has no {}: that is where the folder's name goes.", place));
  const auto isWithin = [](double value, const Limits& limits) {
    return value >= limits.least && value <= limits.most;
  };
  if (!isWithin(setup.sizeStep, limits::sizeStep))
    throw badInput(
        fmt::format("The step of sizes goes from {:.0f} to {:.0f}.", limits::sizeStep.least, limits::sizeStep.most));
  if (!isWithin(setup.lanes, programLanes)) throw badInput("1 to 16 copies may run at a time.");
  if (!isWithin(setup.mostMegapixels, programMegapixels))
    throw badInput(fmt::format("A program makes up to {:.0f} megapixels at once; 0 stands for any number.",
                               programMegapixels.most));
  if (const auto why = setup.maps.inks.empty() ? std::string() : whyNotInks(setup.maps.inks); !why.empty())
    throw badInput(why);
  if (!isWithin(setup.mostSeconds, programSeconds)) throw badInput("A proof may take from a second to a day.");
}

ProgramEngine::ProgramEngine(ProgramSetup setup) : setup_(std::move(setup)) { checkSetup(setup_); }

EngineInfo ProgramEngine::info() const {
  EngineInfo info;
  info.name = info.id = info.title = setup_.name;
  info.note = "A program on this machine: " + setup_.command;
  info.sizeStep = setup_.sizeStep;
  info.kinds = setup_.kinds;
  if (info.kinds.empty())
    for (const Kind& kind : kinds()) info.kinds.push_back(kind.id);
  for (const std::string& family : setup_.families) info.families.push_back({family});
  info.maps = setup_.maps;
  info.lanes = setup_.lanes;
  info.mostPixels = static_cast<std::int64_t>(setup_.mostMegapixels * 1e6);
  info.elsewhere = true;
  return info;
}

double ProgramEngine::estimate(const Recipe& recipe) const {
  return 50 + perMegapixel_.load() * static_cast<double>(recipe.frame.area()) / 1e6;
}

Image<Rgb8> ProgramEngine::generate(const EngineJob& job, const EngineSink& sink, StopToken stop) {
  checkJob(job, info());
  const QTemporaryDir folder;
  if (!folder.isValid()) throw failed("Could not make a folder for the job of " + setup_.name + ".");
  const std::filesystem::path root = folder.path().toStdString(), out = root / "out";
  writeJobFolder(asWanted(job, setup_.maps), root / "job");
  makeFolder(out);
  QStringList words = QProcess::splitCommand(QString::fromStdString(setup_.command));
  for (QString& word : words)
    word.replace(jobPlace, QString::fromStdString((root / "job").string()))
        .replace(outPlace, QString::fromStdString(out.string()));
  const QString program = words.takeFirst();
  throwIfStopped(stop);

  QElapsedTimer time;
  time.start();
  Running running(program, words);
  QProcess& process = running.process();
  if (!running.started())
    throw badInput(fmt::format("{}: \"{}\" could not be started.", setup_.name, program.toStdString()));
  process.closeWriteChannel();
  Lines told, complained;
  std::deque<std::string> last;
  std::set<std::string> previews;
  EngineProgress progress{0, std::max(1, job.recipe.brief.steps), {}};
  const auto keep = [&](const std::string& line) {
    last.push_back(line);
    if (last.size() > lastLines) last.pop_front();
  };
  const auto hear = [&](const std::string& line) {
    if (const auto step = stepIn(line)) {
      progress.step = step->first, progress.steps = step->second;
      if (sink) sink(progress);
    } else if (line.starts_with("preview ")) {
      const std::string name = line.substr(8);
      previews.insert(name);
      if (const auto path = plainFile(out, name); path && sink) try {
          const auto picture = std::make_shared<const Image<Rgb8>>(pictureIn(*path));
          progress.preview = [picture] { return picture->clone(); };
          sink(progress);
          progress.preview = {};
        } catch (const Problem&) {
          // Written by halves, or none: the proof is another matter.
        }
    } else {
      keep(line);
    }
  };
  const auto listen = [&] {
    told.add(process.readAllStandardOutput(), hear);
    complained.add(process.readAllStandardError(), keep);
  };
  while (process.state() != QProcess::NotRunning) {
    process.waitForReadyRead(look);
    listen();
    throwIfStopped(stop);
    if (static_cast<double>(time.elapsed()) > 1000 * setup_.mostSeconds)
      throw failedForNow(fmt::format("{} took longer than {:.0f} s and was ended.", setup_.name, setup_.mostSeconds));
  }
  listen();
  told.end(hear);
  complained.end(keep);
  throwIfStopped(stop);
  if (process.exitStatus() != QProcess::NormalExit || process.exitCode() != 0) {
    std::string said;
    for (const std::string& line : last) said += (said.empty() ? "" : " / ") + line;
    throw failed(fmt::format(
        "{} ended with an error ({}){}", setup_.name,
        process.exitStatus() == QProcess::NormalExit ? std::to_string(process.exitCode()) : std::string("it crashed"),
        said.empty() ? "." : ": " + said));
  }
  std::vector<std::string> names;
  for (const auto& entry : std::filesystem::directory_iterator(out))
    if (const std::string name = entry.path().filename().string();
        entry.path().extension() == ".png" && !previews.contains(name) && plainFile(out, name))
      names.push_back(name);
  if (names.empty()) throw failed(setup_.name + " ended well and left no picture (a PNG in its folder).");
  std::sort(names.begin(), names.end());
  Image<Rgb8> picture = pictureIn(out / names.front());
  if (picture.size() != job.recipe.frame)
    throw failed(fmt::format("{} left a picture of {} x {} where {} x {} was asked for.", setup_.name, picture.width(),
                             picture.height(), job.recipe.frame.width, job.recipe.frame.height));
  const double took = static_cast<double>(time.elapsed()) / (static_cast<double>(job.recipe.frame.area()) / 1e6);
  perMegapixel_ = 0.5 * perMegapixel_.load() + 0.5 * took;
  return picture;
}

}  // namespace hscaffold
