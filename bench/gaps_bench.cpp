// How long the window is deaf at a stretch while heavy things happen: a study of 300 MB is opened, a picture of 100
// megapixels comes in, 25 cells are pulled, by the built-in engine and over two services, a balance is looked for, all
// of it is saved under another name, and a window is closed in the middle of a pull; and how long an action takes that
// is on the disk when it ends.
#include <QElapsedTimer>
#include <QImage>
#include <QProcess>
#include <random>

#include "core/study/study_file.h"
#include "files/remote_engine.h"
#include "open_window.h"

namespace {

using namespace hscaffold;
using namespace hscaffold::app;

/// Lets events happen until `done`. @return the longest that one round took, milliseconds
template <typename Done>
double longestRound(const Done& done) {
  double longest = 0;
  QElapsedTimer all;
  all.start();
  while (!done() && all.elapsed() < 120'000) {
    QElapsedTimer round;
    round.start();
    QCoreApplication::processEvents(QEventLoop::AllEvents);
    longest = std::max(longest, static_cast<double>(round.nsecsElapsed()) / 1e6);
    QTest::qSleep(1);
  }
  return longest;
}

/// A sheet over two services on this machine, seen while it is pulled.
double pullOverServices(Open& open, SheetPlan plan) {
  QProcess services[2];
  const char* names[] = {"loft", "attic"};
  for (int i = 0; i < 2; ++i) {
    services[i].start(HSCAFFOLD_ENGINE, {"--port", "0", "--name", names[i]});
    services[i].waitForReadyRead(20'000);
    const QString address = QString::fromUtf8(services[i].readAllStandardOutput()).trimmed();
    open.desk.addEngine(std::make_shared<RemoteEngine>(RemoteSetup{names[i], address.toStdString()}));
  }
  const std::string before = open.desk.document.state().engine;
  open.desk.document.change("Engine", [](StudyState& s) { s.engine = "loft"; });
  plan.engines = {"attic"};
  // A view that is drawn for the first time is not what is asked here.
  open.window->showView(1);
  QTest::qWait(500);
  const std::int64_t sheet = open.desk.queue.pullSheet(plan);
  open.desk.document.look([&](Looking& looking) { looking.sheet = sheet; });
  const double longest = longestRound([&] { return open.desk.queue.all().empty() && open.desk.idle(); });
  open.desk.document.change("Engine", [&](StudyState& s) { s.engine = before; });
  for (const char* name : names) open.desk.removeEngine(name);
  for (QProcess& service : services) {
    service.terminate();
    service.waitForFinished();
  }
  return longest;
}

void longestGaps(benchmark::State& state) {
  Open open({384, 256});
  const QTemporaryDir folder;
  const auto large = folder.filePath("large.scaffold").toStdString();
  {
    const Reference& reference = open.desk.document.state().references[0];
    const PictureFile picture{reference.content, open.desk.document.picture(reference.source())};
    auto file = StudyFile::create(large, open.desk.document.state(), std::span(&picture, 1));
    ProofInfo info;
    info.recipe = recipeOf(open.desk.document.state());
    std::mt19937 random(3);
    Bytes noise(1'000'000);
    for (std::byte& b : noise) b = static_cast<std::byte>(random());
    const auto small = encodePng(Image<Rgb8>(256, 170).view());
    for (int i = 0; i < 300; ++i) file.addProof(info, noise, small);
  }
  const QString picture = folder.filePath("hundred.jpg");
  {
    QImage image(11584, 8640, QImage::Format_RGB32);
    for (int y = 0; y < image.height(); ++y) {
      auto* line = reinterpret_cast<QRgb*>(image.scanLine(y));
      for (int x = 0; x < image.width(); ++x) line[x] = qRgb((x >> 4) & 255, (y >> 4) & 255, (x * y >> 10) & 255);
    }
    image.save(picture, "JPEG", 88);
  }
  for (auto _ : state) {
    // A round in which a new window is drawn for the first time is not what is asked here.
    QElapsedTimer timer;
    open.window->openStudyLater(QString::fromStdString(large));
    state.counters["open_ms"] = longestRound([&] { return open.desk.document.isOpen(large) && open.desk.idle(); });
    const auto references = open.desk.document.state().references.size();
    bringIn(open.desk, {picture.toStdString()});
    state.counters["bring_in_ms"] =
        longestRound([&] { return open.desk.document.state().references.size() > references && open.desk.idle(); });
    SheetPlan plan;
    plan.base = recipeOf(open.desk.document.state());
    plan.seeds.resize(25);
    for (std::size_t i = 0; i < 25; ++i) plan.seeds[i] = static_cast<std::uint32_t>(i);
    open.desk.queue.pullSheet(plan);
    state.counters["pull_ms"] = longestRound([&] { return open.desk.queue.all().empty(); });
    state.counters["services_ms"] = pullOverServices(open, plan);
    // A balance is looked for, and its sheet is seen.
    FindPlan find;
    find.base = plan.base;
    find.holds = {{plan.base.guides[0].guide.id, HoldGoal::Wish::atLeast, 60}};
    find.settings = usualSettings(plan.base, find.holds);
    find.seeds = {7};
    find.budget = 16;
    open.window->showView(1);
    const std::int64_t search = open.desk.finder.begin(find);
    open.desk.document.look([&](Looking& looking) { looking.sheet = search; });
    longestRound([&] { return open.desk.finder.tried(*open.desk.proofs.sheet(search)).size() > 3; });
    state.counters["search_ms"] = longestRound([&] { return !open.desk.finder.searching(search) && open.desk.idle(); });
    // Each action is on the disk before the next event.
    std::vector<double> actions;
    for (int i = 0; i < 60; ++i) {
      timer.start();
      open.desk.document.change("Weight", [&](StudyState& s) { s.guides[0].weight = 0.5 + 0.005 * i; });
      actions.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
      longestRound([&] { return open.desk.idle(); });
    }
    percentiles(state, actions);
    // Saved under another name while the window goes on.
    const auto saving = open.desk.document.beginSaving(folder.filePath("saved.scaffold").toStdString());
    bool copied = false;
    open.desk.tasks.run(
        open.window.get(), "save as", Priority::hand, [saving](const StopToken&) { StudyDocument::makeCopy(*saving); },
        [&] {
          open.desk.document.endSaving(*saving);
          copied = true;
        });
    state.counters["save_as_ms"] = longestRound([&] { return copied; });
    // Another window goes in the middle of a pull.
    auto closing = std::make_unique<Open>(Size{384, 256});
    plan.base = recipeOf(closing->desk.document.state());
    closing->desk.queue.pullSheet(plan);
    longestRound([&] { return !closing->desk.proofs.all().empty(); });
    timer.start();
    closing->desk.tasks.forgetAll();
    closing.reset();
    state.counters["close_ms"] = static_cast<double>(timer.nsecsElapsed()) / 1e6;
  }
}

BENCHMARK(longestGaps)->Name("window/longest gaps between events")->Unit(benchmark::kMillisecond)->Iterations(1);

}  // namespace
