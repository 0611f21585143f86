// A large study is opened and worked in for long: it opens soon, its memory stays as large as it was, no event waits.
// HSCAFFOLD_SOAK=30 (and QTEST_FUNCTION_TIMEOUT in ms, beyond that) says how many minutes; without it, a small study
// and a few seconds show that all of it can be done. (Templates that the tests share with the program are slower here:
// they are compiled without optimisation.) HSCAFFOLD_SOAK_STUDY=FILE works in a copy of a study that is there, instead
// of one that is made first.
#include <execinfo.h>
#include <pthread.h>
#include <unistd.h>

#include <QElapsedTimer>
#include <array>
#include <atomic>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <random>
#include <thread>

#include "app/document/study_edits.h"
#include "app/window_fixture.h"
#include "app/workbench/pose/pose_window.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

namespace {

/// Where the window's thread was when an event had waited too long: a signal's handler has nothing else to write to.
std::array<void*, 40> whereabouts;
std::atomic<int> framesThere = 0;

void takeWhereabouts(int) { framesThere = backtrace(whereabouts.data(), static_cast<int>(whereabouts.size())); }

/// Asks the window's loop every few milliseconds whether it is there, from a thread of its own, and keeps how long it
/// took to answer: as long as a key or a movement of the pointer would have waited.
class Pulse : public QObject {
 public:
  /// @param where  to say where the window's thread was when something had to wait too long
  explicit Pulse(bool where) : where_(where) {
    if (where_) {
      std::signal(SIGUSR2, takeWhereabouts);
      takeWhereabouts(0);  // what it needs is brought in before it is asked from a signal
    }
    thread_ = std::thread([this] { ask(); });
  }
  ~Pulse() override {
    ends_ = true;
    thread_.join();
  }
  Pulse(const Pulse&) = delete;
  Pulse& operator=(const Pulse&) = delete;

  bool event(QEvent* event) override {
    if (event->type() != QEvent::User) return QObject::event(event);
    const double waited = static_cast<double>(clock_.nsecsElapsed()) / 1e6;
    waits_.push_back(static_cast<float>(waited));
    if (waited > longest) {
      long_.emplace_back(doing, waited);
      if (const int there = framesThere.exchange(0); there > 0) say(waited, there);
    }
    asked_ = false;
    return true;
  }
  /// Milliseconds that a share of all waits does not exceed.
  [[nodiscard]] float within(double share) {
    if (waits_.empty()) return 0;
    std::sort(waits_.begin(), waits_.end());
    return waits_[static_cast<std::size_t>(share * static_cast<double>(waits_.size() - 1))];
  }
  [[nodiscard]] std::size_t count() const { return waits_.size(); }
  [[nodiscard]] const std::vector<std::pair<std::string, double>>& longOnes() const { return long_; }

  std::string doing;  ///< what is done now, for what is said of long waits

 private:
  static constexpr double longest = 50;  ///< milliseconds

  void ask() {
    bool saysWhere = false;  // once a wait
    while (!ends_) {
      if (!asked_.exchange(true)) {
        clock_.start();
        saysWhere = where_;
        framesThere = 0;
        QCoreApplication::postEvent(this, new QEvent(QEvent::User), Qt::HighEventPriority);
      } else if (saysWhere && static_cast<double>(clock_.nsecsElapsed()) / 1e6 > longest) {
        saysWhere = false;
        pthread_kill(window_, SIGUSR2);
      }
      std::this_thread::sleep_for(std::chrono::milliseconds(4));
    }
  }

  /// Files and addresses in them, to be named by `addr2line -fCe FILE ADDRESS`.
  void say(double waited, int there) const {
    char** names = backtrace_symbols(whereabouts.data(), there);
    qInfo("%.0f ms while: %s", waited, doing.c_str());
    for (int i = 0; names != nullptr && i < there; ++i) qInfo("    %s", names[i]);
    std::free(names);
  }

  std::atomic<bool> ends_ = false, asked_ = false;
  const bool where_;
  const pthread_t window_ = pthread_self();
  QElapsedTimer clock_;
  std::vector<float> waits_;
  std::vector<std::pair<std::string, double>> long_;
  std::thread thread_;
};

/// MiB of this process that are in memory.
double resident() {
  std::ifstream in("/proc/self/statm");
  double all = 0, here = 0;
  in >> all >> here;
  return here * static_cast<double>(sysconf(_SC_PAGESIZE)) / (1024 * 1024);
}

}  // namespace

class SoakTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void aLargeStudyOpensAndIsWorkedInForLong();

 private:
  /// What the study has many of.
  struct Extent {
    int proofs, guides, strokes, figures;
  };
  void fill(const Extent& extent);
  void reopen();
  void act(Pulse& pulse);
  /// A place of the frame, with room for a short stroke.
  QPointF anywhere() { return QPoint(20 + static_cast<int>(chance_() % 430), 20 + static_cast<int>(chance_() % 270)); }

  std::mt19937 chance_{20261201};
  int drags_ = 0, pulls_ = 0, undone_ = 0;
};

/// Guides, strokes and figures by the window's own means, and proofs as copies of one that it pulled.
void SoakTest::fill(const Extent& extent) {
  document().change("Quick", [](StudyState& s) { s.brief.steps = 3; });
  const std::vector<std::string> kinds{"edges", "lines", "depth", "tone"};
  while (static_cast<int>(state().guides.size()) < extent.guides - 2) add(kinds[state().guides.size() % kinds.size()]);
  for (int n = 0; n < 2; ++n) {
    pose::Figures figures;
    figures.frame = state().frame;
    for (int i = 0; i < extent.figures / 2; ++i)
      figures.figures.push_back(std::make_shared<const pose::Figure>(
          standing(40, {20 + 23.0 * (i % 20), 30 + 50.0 * static_cast<double>(i / 20)})));
    addPoseGuide(document(), "Crowd", std::move(figures));
    settle();
  }
  // Two of them and the first figures are obeyed.
  document().change("Few", [](StudyState& s) {
    for (std::size_t i = 2; i < s.guides.size(); ++i) s.guides[i].on = i + 1 == s.guides.size();
  });
  press(Qt::Key_D);
  for (int i = 0; i < extent.strokes; ++i) {
    const std::size_t which = static_cast<std::size_t>(i) % static_cast<std::size_t>(extent.guides - 2);
    document().look([&](Looking& l) { l.guide = state().guides[which].id; });
    press(Qt::Key_D);
    const QPointF at = anywhere();
    drag({at, at + QPointF(25, 6)});
  }
  settle();
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  document().saveAs(path("large.scaffold").toStdString());
  settle();
  const auto one = *desk().proofs.current();
  const Bytes png = desk().proofs.png(one.number);
  closeWindow();
  auto file = StudyFile::open(path("large.scaffold").toStdString());
  const Bytes thumbnail = file.proofThumbnail(one.number);
  for (int n = 1; n < extent.proofs; ++n) {
    ProofInfo copy = one;
    copy.number = 0;
    copy.recipe.brief.seed = static_cast<std::uint32_t>(n);
    file.addProof(copy, png, thumbnail);
  }
}

/// As a program that is begun with the study: until the reference and its map are on the table, and painted.
void SoakTest::reopen() {
  ::sync();  // what was just made or copied is not waited for below
  desk_ = std::make_unique<Desk>();
  window_ = std::make_unique<MainWindow>(*desk_);
  window_->show();
  QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
  QElapsedTimer clock;
  clock.start();
  QVERIFY(window_->openStudy(path("large.scaffold")));
  const qint64 opened = clock.elapsed();
  const auto until = [&](const std::function<bool()>& there) {
    const bool came = QTest::qWaitFor(there, 60'000 * patience);
    window_->grab();
    return came ? clock.elapsed() : -1;
  };
  const qint64 picture = until([&] { return !desk().maps.placedImage(state().references[0].id).isNull(); });
  const qint64 shown = until([&] { return desk().maps.mapOf(guide().id) != nullptr; });
  QVERIFY(picture > 0 && shown > 0);
  qInfo(
      "%zu proofs, %zu guides: opened after %lld ms, its reference painted after %lld, with the chosen guide's map "
      "%lld",
      desk().proofs.all().size(), state().guides.size(), static_cast<long long>(opened),
      static_cast<long long>(picture), static_cast<long long>(shown));
  settle();
}

void SoakTest::act(Pulse& pulse) {
  const auto did = [&](const char* what) { pulse.doing = what; };
  // Eight moves of one drag, to values from `least` on.
  const auto scrub = [&](const char* name, double least, double step, const auto& valueIn) {
    for (int i = 0; i < 8; ++i)
      document().change(
          name, [&](StudyState& s) { valueIn(s) = least + step * static_cast<double>(chance_() % 16); }, name);
    document().seal();
    ++drags_;
  };
  switch (chance_() % 16) {
    case 0:
      // As somebody who looks at what comes, not as one who fills the queue.
      if (desk().queue.all().size() > 2) break;
      did("pull");
      pressInWindow(Qt::Key_Return, Qt::ControlModifier);
      ++pulls_;
      break;
    case 1:
      did("another guide");
      document().look([&](Looking& l) { l.guide = state().guides[chance_() % state().guides.size()].id; });
      break;
    case 2:
      did("undo and redo");
      for (int i = 0; i < 6; ++i) {
        i < 3 ? undo() : redo();
        QCoreApplication::processEvents();
      }
      undone_ += 3;
      break;
    case 3:
      did("the Sheet and back");
      window_->showView(1);
      QTest::qWait(30);
      window_->showView(0);
      break;
    case 4: {
      did("closer and back");
      for (const int way : {120, 120, -120, -120}) {
        QWheelEvent wheel(table().rect().center(), table().mapToGlobal(table().rect().center()), {}, {0, way},
                          Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(&table(), &wheel);
      }
      break;
    }
    case 5: {
      did("a guide's weight");
      const std::size_t which = chance_() % 2;
      scrub("Weight", 0.2, 0.05, [&](StudyState& st) -> double& { return st.guides[which].weight; });
      break;
    }
    case 6:
      did("the leaf's place");
      scrub("Place", 0.4, 0.01, [](StudyState& st) -> double& { return st.references[0].placement.x; });
      break;
    case 7: {
      did("a drag in the pose");
      document().look([&](Looking& l) { l.guide = state().guides.back().id; });
      press(Qt::Key_S);
      const QPointF at = anywhere();
      drag({at, at + QPointF(3, 1), at + QPointF(6, 3)});
      ++drags_;
      break;
    }
    case 8:
      did("other proofs");
      for (int i = 0; i < 3; ++i) {
        const auto& all = desk().proofs.all();
        const std::int64_t number = all[chance_() % all.size()].number;
        document().look([&](Looking& l) { l.proof = number; });
        QTest::qWait(20);
      }
      break;
    default: {
      did("a stroke");
      if (guide().kind == "pose")
        document().look([&](Looking& l) { l.guide = state().guides[chance_() % (state().guides.size() - 2)].id; });
      press(Qt::Key_D);
      const QPointF at = anywhere();
      drag({at, at + QPointF(9, 2), at + QPointF(20, 8)});
      ++drags_;
    }
  }
}

void SoakTest::aLargeStudyOpensAndIsWorkedInForLong() {
  const double minutes = qEnvironmentVariable("HSCAFFOLD_SOAK", "0").toDouble();
  const bool whole = minutes > 0;
  if (const QString ready = qEnvironmentVariable("HSCAFFOLD_SOAK_STUDY"); !ready.isEmpty()) {
    closeWindow();
    QVERIFY(QFile::copy(ready, path("large.scaffold")));
  } else {
    fill(whole ? Extent{2000, 40, 300, 200} : Extent{60, 6, 8, 20});
  }
  reopen();
  const std::size_t stepsAtMost = 1000;
  const qint64 length = whole ? static_cast<qint64>(minutes * 60'000) : 4000;
  std::vector<double> memory;
  {
    Pulse pulse(whole);
    QElapsedTimer clock;
    clock.start();
    qint64 looked = 0;
    while (clock.elapsed() < length) {
      act(pulse);
      QTest::qWait(static_cast<int>(40 + chance_() % 120));
      if (clock.elapsed() - looked < length / 100) continue;
      looked = clock.elapsed();
      memory.push_back(resident());
      if (memory.size() % 10 == 0)
        qInfo("%lld s: %.0f MiB, %d drags, %d pulls, %zu proofs", static_cast<long long>(looked / 1000), memory.back(),
              drags_, pulls_, desk().proofs.all().size());
    }
    pulse.doing = "settling";
    settle();
    const auto& longOnes = pulse.longOnes();
    std::map<std::string, std::pair<int, double>> by;
    for (const auto& [what, waited] : longOnes) {
      auto& [count, most] = by[what];
      ++count;
      most = std::max(most, waited);
    }
    for (const auto& [what, said] : by)
      qInfo("waits over 50 ms while: %s, %d times, %.0f ms at most", what.c_str(), said.first, said.second);
    qInfo(
        "%d drags and strokes, %d pulls, %d undone; of %zu waits the middle one %.1f ms, 99 of 100 within %.1f ms, "
        "the longest %.0f ms, %zu over 50 ms",
        drags_, pulls_, undone_, pulse.count(), static_cast<double>(pulse.within(0.5)),
        static_cast<double>(pulse.within(0.99)), static_cast<double>(pulse.within(1)), longOnes.size());
    QVERIFY(pulse.count() > 100);
  }
  // What was pulled and drawn is there, and all of it can be taken back and done again.
  const StudyState worked = state();
  std::size_t steps = 0;
  while (document().history().canUndo() && steps < stepsAtMost) {
    undo();
    ++steps;
  }
  QVERIFY(steps > 3);
  if (whole) QCOMPARE(steps, stepsAtMost);
  for (std::size_t i = 0; i < steps; ++i) redo();
  QVERIFY(state().guides == worked.guides);
  QVERIFY(state().references == worked.references);
  settle();
  QVERIFY(document().unwritten().isEmpty());
  QVERIFY(StudyFile::open(document().path(), StudyFile::Access::read).readState().guides == worked.guides);
  QCOMPARE(StudyFile::open(document().path(), StudyFile::Access::read).proofs().size(), desk().proofs.all().size());
  qInfo("%zu steps taken back and done again", steps);
  if (!whole) return;
  // The first third fills what is remembered, up to its bounds.
  const auto third = static_cast<std::ptrdiff_t>(memory.size() / 3);
  const double early = *std::max_element(memory.begin() + third, memory.begin() + 2 * third),
               late = *std::max_element(memory.end() - third, memory.end());
  qInfo("%.0f MiB in the second third, %.0f in the last", early, late);
  QVERIFY(late < 1.05 * early);
}

HSCAFFOLD_TEST(SoakTest)
#include "soak_test.moc"
