// Figures from files, clips and detectors, out again, and in proofs.
#include <QComboBox>
#include <QFile>
#include <QMimeData>
#include <QSlider>
#include <QUrl>
#include <atomic>
#include <nlohmann/json.hpp>
#include <thread>

#include "app/bench/clip_dialog.h"
#include "app/document/study_edits.h"
#include "app/workbench/pose/pose_window.h"
#include "core/pose/coco.h"
#include "core/pose/finder.h"
#include "core/study/study_file.h"
#include "files/program_finder.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

namespace {

/// A detector for tests: says what it was told, and how often it was asked.
class ToldFinder : public pose::FigureFinder {
 public:
  explicit ToldFinder(std::vector<pose::Figure> figures) : figures_(std::move(figures)) {}
  [[nodiscard]] std::string name() const override { return "Told"; }
  std::vector<pose::Figure> find(View<Rgb> picture, StopToken stop) override {
    looked = picture.size();
    asked = true;
    while (waits && !stop.stop_requested()) std::this_thread::sleep_for(std::chrono::milliseconds(2));
    throwIfStopped(stop);
    return figures_;
  }
  Size looked;
  bool waits = false;
  std::atomic<bool> asked = false;

 private:
  std::vector<pose::Figure> figures_;
};

}  // namespace

class FigureFilesViewTest : public PoseWindowTest {
  Q_OBJECT
 private slots:
  void otherInksRedrawTheMap();
  void keyPointsComeInAndGoOut();
  void keyPointsLieOnTheirPicture();
  void wrongFilesChangeNothing();
  void clipsAreScrubbed();
  void findersBringFigures();
  void programsFindFigures();
  void proofsShowTheBody();
};

void FigureFilesViewTest::otherInksRedrawTheMap() {
  put({standing()});
  const QPointF thigh = (place("left_hip") + place("left_knee")) / 2;
  const auto ink = [&] {
    return (*desk_->maps.mapOf(guide().id)->colour)(static_cast<int>(thigh.x()), static_cast<int>(thigh.y()));
  };
  const Rgb8 house = ink();
  auto json = nlohmann::json::parse(pose::skeletons().empty() ? "" : std::string(poseData("house-inks.json")));
  for (auto& stroke : json["skeletons"]["human"]["strokes"]) stroke["colours"] = {"#ff0000", "#ff0000"};
  fixtures::writeFile(path("red.json").toStdString(), json.dump());
  pose().loadInks(path("red.json").toStdString());
  settle();
  QVERIFY(ink().r > 240 && ink().b < 20);
  // They are in the study's file, for a pull elsewhere.
  QVERIFY(!StudyFile::open(document().path()).work(guide().work.in("inks")).empty());
  fixtures::writeFile(path("bad.json").toStdString(), "{\"inks\": 1, \"skeletons\": {\"bird\": {}}}");
  const std::string kept = guide().work.in("inks");
  QVERIFY(fixtures::problemOf([&] { pose().loadInks(path("bad.json").toStdString()); }).contains("bird"));
  QCOMPARE(guide().work.in("inks"), kept);
  pose().loadInks({});
  settle();
  QVERIFY(ink() == house);
}

void FigureFilesViewTest::keyPointsComeInAndGoOut() {
  put({standing(), standing(90, {80, 120})});
  desk_->maps.writer(guide().id, path("out.json").toStdString())();
  desk_->maps.writer(guide().id, path("out.svg").toStdString())();
  desk_->maps.writer(guide().id, path("out.png").toStdString())();
  QVERIFY(QFile(path("out.svg")).size() > 1000);
  const auto png = decodePng(readWholeFile(path("out.png").toStdString())).picture;
  QCOMPARE(png.size(), (Size{480, 320}));
  const auto kept = pose().figures()->figures;
  QMimeData data;
  data.setUrls({QUrl::fromLocalFile(path("out.json"))});
  letGo(*window_, {300, 300}, data);
  QCOMPARE(pose().figures()->figures.size(), std::size_t{4});
  QVERIFY(*pose().figures()->figures[2] == *kept[0] && *pose().figures()->figures[3] == *kept[1]);
  QCOMPARE(document().history().undoName(), std::string("Bring in out.json"));
}

void FigureFilesViewTest::keyPointsLieOnTheirPicture() {
  // Of a picture of 768 x 512 that lies somewhere in the frame.
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"));
  bringIn(*desk_, {fixtures::in(*folder_, "tea.png")});
  settle();
  const Size picture = state().references[0].size;
  document().change("Place", [](StudyState& s) {
    s.references[0].placement.fit = Fit::free;
    s.references[0].placement.scaleX = s.references[0].placement.scaleY = 0.4;
    s.references[0].placement.x = 0.3;
  });
  pose::Figures of;
  of.frame = picture;
  of.figures = {std::make_shared<const pose::Figure>(standing(200, {300, 200}))};
  fixtures::writeFile(path("points.json").toStdString(), pose::cocoFrom(of).dump());
  document().look([&](Looking& looking) { looking.guide = state().guides.back().id; });
  const auto read = figuresForStudy(document(), path("points.json").toStdString());
  const Affine m = frameFromReference(state().references[0].placement, picture, state().frame);
  const Point nose = of.figures[0]->points[0].at, lies = read.figures.figures[0]->points[0].at;
  QVERIFY(distanceBetween(lies, {m.mapX(nose.x, nose.y), m.mapY(nose.x, nose.y)}) < 1e-6);
  // A guide over the reference follows it.
  addPoseGuide(document(), "On it", read.figures);
  settle();
  const Point before = figure().points[0].at;
  document().change("Place", [](StudyState& s) { s.references[0].placement.x = 0.5; });
  QVERIFY(std::abs(figure().points[0].at.x - before.x - 0.2 * 480) < 1e-6);
}

void FigureFilesViewTest::wrongFilesChangeNothing() {
  put({standing()});
  const StudyState before = state();
  for (const auto& [name, text, named] :
       {std::tuple{"a.json", "{\"annotations\": [{\"keypoints\": [1, 2]}]}", "annotation 1"},
        {"b.json", "not JSON", "b.json"},
        {"c.bvh", "HIERARCHY\nROOT Hips {\nOFFSET 0 0", "c.bvh"},
        {"d.json", "{\"annotations\": []}", "no figure"}}) {
    fixtures::writeFile(path(name).toStdString(), text);
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(path(name))});
    letGo(*window_, {300, 300}, data);
    QVERIFY2(window_->shownSentence().contains(named), qPrintable(window_->shownSentence()));
    QVERIFY(state() == before);
  }
}

void FigureFilesViewTest::clipsAreScrubbed() {
  pose::BvhClip clip;
  const auto joint = [&](const char* name, int parent, double x, double y, std::vector<int> channels = {5}) {
    clip.joints.push_back({name, parent, {x, y, 0}, channels, clip.channels, false});
    clip.channels += channels.size();
    return static_cast<int>(clip.joints.size()) - 1;
  };
  const int hips = joint("Hips", -1, 0, 95), head = joint("Head", hips, 0, 60);
  Q_UNUSED(head)
  for (const auto& [side, sign] : {std::pair{std::string("Left"), 1}, {std::string("Right"), -1}}) {
    const int arm = joint((side + "Arm").c_str(), hips, 19 * sign, 50);
    joint((side + "Hand").c_str(), joint((side + "ForeArm").c_str(), arm, 0, -33), 0, -26);
    const int leg = joint((side + "UpLeg").c_str(), hips, 10 * sign, -2);
    joint((side + "Foot").c_str(), joint((side + (sign > 0 ? "Leg" : "Bent")).c_str(), leg, 0, -42), 0, -42);
  }
  clip.frames = 10;
  for (std::size_t f = 0; f < clip.frames; ++f)
    for (std::size_t c = 0; c < clip.channels; ++c) clip.motion.push_back(c == 2 ? 10.0f * static_cast<float>(f) : 0);
  ClipDialog dialog(clip, "clip.bvh");
  // One joint has a name that nobody knows.
  QVERIFY(!dialog.figure().has_value());
  QComboBox& knee = dialog.jointFor("right_knee");
  knee.setCurrentIndex(knee.findText("RightBent"));
  QVERIFY(dialog.figure().has_value());
  const auto first = *dialog.figure();
  dialog.scrubber().setValue(9);
  QVERIFY(!(dialog.figure()->points == first.points));
  dialog.show();
  QVERIFY(!dialog.grab().toImage().isNull());
}

void FigureFilesViewTest::findersBringFigures() {
  FigureSearch& search = desk().workbench.search;
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"));
  bringIn(*desk_, {fixtures::in(*folder_, "tea.png")});
  settle();
  addPoseGuide(document(), "Found");
  settle();
  auto sure = standing(200), faint = standing(60, {90, 90}), twin = sure, nothing = standing(30, {30, 30});
  for (auto& p : sure.points) p.confidence = 0.9;
  for (auto& p : faint.points) p.confidence = 0.35;
  for (auto& p : twin.points) p.confidence = 0.6;
  twin = pose::moved(twin, {2, 1});
  for (auto& p : nothing.points) p.confidence = 0.05;
  faint.points[at("left_wrist")].confidence = 0.1;
  auto finder = std::make_shared<ToldFinder>(std::vector<pose::Figure>{twin, sure, nothing, faint});
  search.find(finder);
  QVERIFY(search.finding());
  QTRY_VERIFY(!search.finding());
  settle();
  QCOMPARE(finder->looked, state().frame);
  // The twin is the same figure, and what is next to nothing is dropped; the faint one stays, far ones first.
  QCOMPARE(pose().figures()->figures.size(), std::size_t{2});
  QVERIFY(std::abs(pose::confidenceOf(figure(1)) - 0.9) < 1e-9);
  QVERIFY(pose::confidenceOf(figure(0)) < 0.4);
  QVERIFY(!figure(0).points[at("left_wrist")].there());
  undo();
  QVERIFY(pose().figures()->figures.empty());
  // Stopped, nothing has changed.
  auto slow = std::make_shared<ToldFinder>(std::vector<pose::Figure>{sure});
  slow->waits = true;
  search.find(slow);
  QTRY_VERIFY(slow->asked);
  click("stop finding");
  QTRY_VERIFY(!search.finding());
  QVERIFY(pose().figures()->figures.empty());
  QVERIFY(window_->shownSentence().contains("stopped"));
}

void FigureFilesViewTest::programsFindFigures() {
  pose::Figures found;
  found.frame = {480, 320};
  found.figures = {std::make_shared<const pose::Figure>(standing())};
  fixtures::writeFile(path("found.json").toStdString(), pose::cocoFrom(found).dump());
  const auto script = [&](const char* name, const QString& lines) {
    fixtures::writeFile(path(name).toStdString(), ("#!/bin/sh\n" + lines + "\n").toStdString());
    QFile(path(name)).setPermissions(QFile::ReadOwner | QFile::ExeOwner | QFile::WriteOwner);
    return ProgramFinder(path(name).toStdString());
  };
  const auto picture = fixtures::overlappingShapes(480, 320);
  auto good = script("good.sh", "test \"$(head -c 4 \"$1\" | tail -c 3)\" = PNG && cat " + path("found.json"));
  const auto figures = good.find(picture, {});
  QCOMPARE(figures.size(), std::size_t{1});
  QVERIFY(figures[0] == *found.figures[0]);
  auto failing = script("failing.sh", "echo 'no model here' >&2; exit 3");
  QVERIFY(fixtures::problemOf([&] { failing.find(picture, {}); }).contains("no model here"));
  auto babbling = script("babbling.sh", "echo hello");
  QVERIFY(fixtures::problemOf([&] { babbling.find(picture, {}); }).contains("not JSON"));
  QVERIFY(fixtures::problemOf([&] {
            ProgramFinder(path("none").toStdString()).find(picture, {});
          }).contains("could not be started"));
  auto sleeping = script("sleeping.sh", "sleep 60");
  std::stop_source stop;
  std::jthread later([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    stop.request_stop();
  });
  bool cancelled = false;
  try {
    sleeping.find(picture, stop.get_token());
  } catch (const Cancelled&) {
    cancelled = true;
  }
  QVERIFY(cancelled);
}

void FigureFilesViewTest::proofsShowTheBody() {
  put({standing()});
  document().change("Brief", [](StudyState& s) {
    s.brief.prompt = "a person in a red coat, white snow, day, photograph";
    s.brief.steps = 8;
    s.brief.seed = 3;
    s.guides[0].weight = 1.2;
  });
  desk_->queue.pull();
  settle();
  const auto number = desk_->proofs.all().front().number;
  const QImage with = desk_->proofs.image(number).copy();
  document().change("Off", [](StudyState& s) { s.guides[0].on = false; });
  desk_->queue.pull();
  settle();
  const QImage without = desk_->proofs.image(desk_->proofs.all().back().number);
  // Red where the chest is, and not without the guide.
  const QPointF chest = (place("left_shoulder") + place("right_hip")) / 2;
  const auto redness = [&](const QImage& image, QPointF p) {
    const QColor c = image.pixelColor(p.toPoint());
    return c.red() - (c.green() + c.blue()) / 2;
  };
  QVERIFY2(redness(with, chest) > 50, qPrintable(QString::number(redness(with, chest))));
  QVERIFY(redness(with, chest) > redness(without, chest) + 40);
  QVERIFY(redness(with, {440, 60}) < 30);
  // What a proof was made with can be brought back.
  const auto& recipe = desk_->proofs.proof(number)->recipe;
  QCOMPARE(recipe.guides.size(), std::size_t{1});
  QVERIFY(recipe.guides[0].guide.work.has("figures") && !recipe.guides[0].mapDigest.empty());
}

HSCAFFOLD_TEST(FigureFilesViewTest)
#include "figure_files_view_test.moc"
