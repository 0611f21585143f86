// The window as it is used: the time from a moved threshold to the painted map, repaints, and the first window.
#include <QApplication>
#include <QElapsedTimer>
#include <QMouseEvent>
#include <QProcess>
#include <QTest>

#include <cmath>

#include "app/bench/bench_view.h"
#include "app/widgets/scrub_field.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/pose/library.h"
#include "open_window.h"

namespace {

using namespace hscaffold;
using namespace hscaffold::app;

/// A threshold moves; how long until the window has painted the map that belongs to it.
void thresholdToScreen(benchmark::State& state) {
  Open open({1024, 1024});
  const std::string id = open.desk.document.state().guides[0].id;
  std::vector<double> times;
  int step = 0;
  for (auto _ : state) {
    bool arrived = false;
    const auto connection = QObject::connect(&open.desk.maps, &MapRoom::mapChanged, [&] { arrived = true; });
    QElapsedTimer timer;
    timer.start();
    open.desk.document.change(
        "Thresholds",
        [&](StudyState& s) {
          s.guide(id)->tuning = {{"thresholds", 1}, {"low", 0.03}, {"high", 0.06 + 0.002 * (++step % 100)}};
        },
        "thresholds");
    while (!arrived) QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);
    (*open.window->findChild<BenchView*>()).source().repaint();
    times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    QObject::disconnect(connection);
  }
  percentiles(state, times);
}

/// A weight moves on the span board; how long until everything that shows it is painted.
void spanDrag(benchmark::State& state) {
  Open open({768, 512});
  const std::string id = open.desk.document.state().guides[0].id;
  std::vector<double> times;
  int step = 0;
  for (auto _ : state) {
    QElapsedTimer timer;
    timer.start();
    open.desk.document.change(
        "Weight", [&](StudyState& s) { s.guide(id)->weight = 0.01 * (1 + ++step % 199); }, "weight");
    (*open.window->findChild<BenchView*>()).board().chart().repaint();
    QCoreApplication::processEvents();
    times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
  }
  percentiles(state, times);
}

/// The same on a plank, in a study with many guides and proofs.
void weightDrag(benchmark::State& state) {
  Open open({768, 512});
  for (int i = 1; i < 12; ++i) addGuide(open.desk.document, i % 2 == 0 ? "edges" : "tone");
  while (!open.desk.idle()) QTest::qWait(5);
  FinishedProof proof;
  proof.picture = Image<Rgb8>(768, 512);
  proof.info.recipe = recipeOf(open.desk.document.state());
  proof.png = encodePng(proof.picture.view(), textsFor(proof.info.recipe));
  proof.thumbnail = encodePng(Image<Rgb8>(192, 128).view());
  for (int i = 0; i < 60; ++i) {
    FinishedProof one;
    one.info = proof.info;
    one.picture = proof.picture.clone();
    one.png = proof.png;
    one.thumbnail = proof.thumbnail;
    open.desk.proofs.keep(std::move(one));
  }
  QTest::qWait(300);
  auto* weight = open.window->findChild<ScrubField*>("weight");
  std::vector<double> times;
  int step = 0;
  const auto copies = open.desk.document.history().copies();
  for (auto _ : state) {
    QElapsedTimer timer;
    timer.start();
    weight->setValue(0.01 * (1 + ++step % 199));
    QCoreApplication::processEvents();
    times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
  }
  state.counters["copies"] = static_cast<double>(open.desk.document.history().copies() - copies);
  percentiles(state, times);
}

/// A brush moves over a frame of 2048x2048: from the pointer's event until the table shows it. The other table and
/// everything else that follows the pointer is in it.
void painting(benchmark::State& state) {
  Open open({2048, 2048});
  SourceTable& table = (*open.window->findChild<BenchView*>()).source();
  open.desk.workbench.setTool(ToolName::draw);
  open.desk.workbench.settings.size = static_cast<double>(state.range(0));
  std::vector<double> times;
  const auto at = [&](int i) {
    const double t = 0.07 * i;
    return table.toTable({1024 + 700 * std::cos(t), 1024 + 600 * std::sin(1.7 * t)});
  };
  const auto send = [&](QEvent::Type type, QPointF place) {
    QMouseEvent event(type, place, table.mapToGlobal(place), type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton,
                      type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&table, &event);
  };
  send(QEvent::MouseButtonPress, at(0));
  int i = 0;
  for (auto _ : state) {
    QElapsedTimer timer;
    timer.start();
    send(QEvent::MouseMove, at(++i));
    QCoreApplication::processEvents();
    times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
  }
  QElapsedTimer timer;
  timer.start();
  send(QEvent::MouseButtonRelease, at(i));
  state.counters["kept_ms"] = static_cast<double>(timer.nsecsElapsed()) / 1e6;
  percentiles(state, times);
}

/// One of many figures is dragged by its hand, the body following: from the pointer's event until the table shows it.
void dragAmongFigures(benchmark::State& state) {
  Open open({1024, 1024});
  std::vector<pose::Figure> figures;
  const auto count = static_cast<int>(state.range(0));
  for (int i = 0; i < count; ++i) {
    const auto& pose = pose::housePoses()[static_cast<std::size_t>(i) % 50];
    figures.push_back(pose::figureFrom(pose::skeletonOf(pose.skeleton), pose.pose,
                                       {{40.0 + 60 * (i % 16), 80.0 + 65 * (i / 16)}, 60.0 + i % 40, {}}));
  }
  figures.push_back(pose::figureFrom(pose::skeletonOf("human"), pose::housePoses()[0].pose, {{512, 520}, 600, {}}));
  SourceTable& table = (*open.window->findChild<BenchView*>()).source();
  addPoseGuide(open.desk.document, "Pose");
  open.desk.workbench.pose.add(std::move(figures), "Put");
  while (!open.desk.idle()) QTest::qWait(5);
  open.desk.workbench.setTool(ToolName::joints);
  const Point wrist = open.desk.workbench.pose.selectedFigure()->points[9].at;
  const auto send = [&](QEvent::Type type, QPointF inFrame) {
    const QPointF at = table.toTable(inFrame);
    QMouseEvent event(type, at, table.mapToGlobal(at), type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton,
                      type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&table, &event);
  };
  std::vector<double> times;
  send(QEvent::MouseButtonPress, {wrist.x, wrist.y});
  int i = 0;
  QPointF to;
  for (auto _ : state) {
    QElapsedTimer timer;
    timer.start();
    const double t = 0.05 * ++i;
    to = {wrist.x + 60 * std::sin(t) + 60, wrist.y - 150 + 140 * std::cos(t)};
    send(QEvent::MouseMove, to);
    QCoreApplication::processEvents();
    times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
  }
  QElapsedTimer timer;
  timer.start();
  send(QEvent::MouseButtonRelease, to);
  state.counters["kept_ms"] = static_cast<double>(timer.nsecsElapsed()) / 1e6;
  percentiles(state, times);
}

void firstWindow(benchmark::State& state) {
  const QTemporaryDir home;
  QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
  environment.insert("XDG_DATA_HOME", home.path());
  environment.insert("XDG_CONFIG_HOME", home.path());
  for (auto _ : state) {
    QProcess process;
    process.setProcessEnvironment(environment);
    process.start(HSCAFFOLD_WINDOW, {"--time-to-window"});
    process.waitForFinished();
  }
}

BENCHMARK(thresholdToScreen)
    ->Name("threshold to screen, 1024x1024")
    ->Iterations(200)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(spanDrag)->Name("span board dragged")->Iterations(200)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(weightDrag)
    ->Name("weight dragged, 12 guides, 60 proofs")
    ->Iterations(200)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(painting)
    ->Name("brush to screen, 2048x2048, diameter")
    ->Arg(14)
    ->Arg(120)
    ->Iterations(200)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(dragAmongFigures)
    ->Name("figure dragged, 1024x1024, among")
    ->Arg(1)
    ->Arg(200)
    ->Iterations(200)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(firstWindow)
    ->Name("program start to first window and end")
    ->Iterations(5)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

}  // namespace
