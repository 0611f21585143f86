// Jobs as folders: what was written and is read again is the same job to the bit, for every kind of guide; and what
// lies beside a recipe wrongly or not at all is said.
#include <QTest>
#include <array>
#include <nlohmann/json.hpp>

#include "core/depth/hints.h"
#include "core/engine/standin/standin.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/job/job_folder.h"
#include "core/job/prepare.h"
#include "core/job/pull.h"
#include "core/kinds.h"
#include "core/pose/figure.h"
#include "core/pose/inks.h"
#include "core/pose/library.h"
#include "core/retouch/painter.h"
#include "core/strokes/drawing.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

constexpr Size jobFrame{240, 160};

Layer paintedAt(Point at, double size) {
  Layer empty;
  empty.frame = jobFrame;
  BrushStroke stroke(empty, {PaintMode::draw, size, 0.6, 0.8}, {});
  stroke.to(at);
  return stroke.layer();
}

/// Something in each of the kind's own slots that there is something for.
void fillSlots(const Kind& kind, Guide& guide, WorkStore& store) {
  if (kind.hasSlot(pose::figuresSlot)) {
    const auto& named = pose::housePoses().front();
    auto figure = pose::fittedInto(pose::figureFrom(pose::skeletonOf(named.skeleton), named.pose, {}),
                                   pose::Bounds{60, 10, 180, 150});
    figure.points[3].at.x += 1.0 / 3;  // no round number
    guide.work.put(pose::figuresSlot,
                   store.keep(pose::figuresForm(),
                              pose::Figures{jobFrame, {}, {std::make_shared<const pose::Figure>(std::move(figure))}}));
    pose::Inks inks = pose::houseInks();
    inks.background = {10, 20, 30};
    guide.work.put(pose::inksSlot, store.keep(pose::inksForm(), std::move(inks)));
  }
  if (kind.hasSlot(drawingSlot)) {
    Drawing drawing;
    drawing.frame = jobFrame;
    Stroke stroke;
    stroke.points = {{20.25, 30.5}, {60, 10.125}, {90.0 / 7, 120}, {200, 140}};
    stroke.widths = {2, 5};
    drawing.strokes.push_back(std::make_shared<const Stroke>(std::move(stroke)));
    guide.work.put(drawingSlot, store.keep(drawingForm(), std::move(drawing)));
  }
  if (kind.hasSlot(depth::hintsSlot)) {
    depth::Hints hints;
    hints.frame = jobFrame;
    hints.hints.push_back({depth::Hint::Form::level, {{30, 40}, {80.5, 41}}, 12, 0.9, 0.5});
    guide.work.put(depth::hintsSlot, store.keep(depth::hintsForm(), std::move(hints)));
  }
}

/// A recipe with all that one can have: reference, retouch, region with feather, own hand work, a start picture and
/// words to words.
Recipe wholeRecipe(const Kind& kind, WorkStore& store) {
  Recipe recipe;
  recipe.frame = jobFrame;
  recipe.brief.prompt = "a field by the sea, gouache";
  recipe.brief.steps = 8;
  recipe.brief.seed = 12;
  recipe.brief.start.from = StartPicture::From::reference;
  recipe.brief.start.reference = "r1";
  recipe.brief.start.shows = "a dune";
  recipe.brief.start.wanted = "a meadow";
  recipe.references.push_back({"r1", "scene.png", {.turn = 3.5}, "c0ffee"});
  RecipeGuide entry;
  entry.guide.id = "g1";
  entry.guide.kind = kind.id;
  entry.guide.name = kind.name;
  entry.guide.weight = 0.8;
  if (kind.extract) entry.guide.reference = "r1";
  for (const TuningField& field : *kind.fields) entry.guide.tuning[field.id] = field.defaultValue;
  fillSlots(kind, entry.guide, store);
  entry.guide.work.put(retouchSlot, store.keep(paintedAt({60, 60}, 31)));
  entry.guide.work.put(regionSlot, store.keep(paintedAt({120, 80}, 140)));
  entry.guide.region.feather = 7.5;
  recipe.guides.push_back(std::move(entry));
  return recipe;
}

const std::shared_ptr<const Image<Rgba16>>& scene() {
  static const auto kept = std::make_shared<const Image<Rgba16>>(fixtures::encoded(fixtures::scene(1)));
  return kept;
}

JobSources sourcesWith(WorkStore& store) {
  return {
      [](const RecipeReference&) { return scene(); }, {}, [&](const Guide& guide) { return takenWork(guide, store); }};
}

Bytes proofOf(EngineJob job) {
  StandinEngine engine;
  return pullProof(engine, std::move(job), nullptr, {}, {}).png;
}

Recipe recipeIn(const std::filesystem::path& folder) {
  return recipeFromJson(parseJson(fixtures::readFile(folder / "recipe.json"), "recipe"));
}

}  // namespace

class JobFolderTest : public QObject {
  Q_OBJECT
 private slots:
  void everyKindComesBackToTheBit_data();
  void everyKindComesBackToTheBit();
  void startPicturesComeBackToTheBit_data();
  void startPicturesComeBackToTheBit();
  void whatIsMissingIsSaid();
  void filesOutsideTheFolderAreRefused();
  void mapsAreMadeOnceForAllCells();
  void mapsThatWereColouredElsewhereAreReadWhole();
};

void JobFolderTest::everyKindComesBackToTheBit_data() {
  QTest::addColumn<QString>("id");
  QTest::addColumn<bool>("small");
  for (const Kind& kind : kinds()) {
    QTest::addRow("%s", kind.id.c_str()) << QString::fromStdString(kind.id) << false;
    QTest::addRow("%s, small", kind.id.c_str()) << QString::fromStdString(kind.id) << true;
  }
}

void JobFolderTest::everyKindComesBackToTheBit() {
  QFETCH(QString, id);
  QFETCH(bool, small);
  const Kind& kind = kindOf(id.toStdString());
  WorkStore store;
  QTemporaryDir folder;
  const std::filesystem::path path = folder.path().toStdString();
  const Recipe whole = wholeRecipe(kind, store);
  const auto prepared = jobFrom(small ? atSize(whole, {120, 80}) : whole, sourcesWith(store));
  const EngineJob& job = prepared.job;
  QCOMPARE(job.start.size(), job.recipe.frame);
  // A small proof has the maps of the large one.
  QCOMPARE(job.inputs[0].map.size(), jobFrame);
  if (small) QVERIFY(job.inputs[0].map == jobFrom(whole, sourcesWith(store)).job.inputs[0].map);
  QVERIFY(!job.inputs[0].region.empty() && !job.start.empty());
  writeJobFolder(job, path);
  const auto read = readJob(recipeIn(path), path);
  QVERIFY2(read.notes.empty(), read.notes.empty() ? "" : read.notes.front().c_str());
  QVERIFY(read.job.recipe == job.recipe);
  QVERIFY(read.job.start == job.start);
  const GuideInput &was = job.inputs[0], &is = read.job.inputs[0];
  QVERIFY(is.map == was.map);
  QVERIFY(is.colour == was.colour);
  QVERIFY(is.region == was.region);
  for (const WorkSlot& slot : kind.workSlots) {
    QCOMPARE(is.work.find(slot.name) != nullptr, was.work.find(slot.name) != nullptr);
    if (const std::any* piece = was.work.find(slot.name))
      QCOMPARE(slot.form->write(*is.work.find(slot.name)), slot.form->write(*piece));
  }
  // And so the proof is the same file, recipe and all.
  EngineJob again;
  again.recipe = job.recipe;
  again.start = job.start.clone();
  again.inputs.push_back(job.inputs[0].clone());
  const auto pulled = proofOf(std::move(again));
  auto second = readJob(recipeIn(path), path);
  QVERIFY(proofOf(std::move(second.job)) == pulled);
}

void JobFolderTest::startPicturesComeBackToTheBit_data() {
  QTest::addColumn<int>("from");
  QTest::newRow("colour") << static_cast<int>(StartPicture::From::colour);
  QTest::newRow("proof") << static_cast<int>(StartPicture::From::proof);
  QTest::newRow("reference") << static_cast<int>(StartPicture::From::reference);
}

void JobFolderTest::startPicturesComeBackToTheBit() {
  QFETCH(int, from);
  WorkStore store;
  Recipe recipe = wholeRecipe(kindOf("edges"), store);
  recipe.guides.clear();
  StartPicture& start = recipe.brief.start;
  start.from = static_cast<StartPicture::From>(from);
  start.proof = from == static_cast<int>(StartPicture::From::proof) ? 3 : 0;
  start.colour = {0.2f, 1.0f / 3, 0.7f};
  auto sources = sourcesWith(store);
  sources.proofs = [](std::int64_t) { return encodePng(Image<Rgb8>(60, 40).view()); };
  const auto made = jobFrom(recipe, sources);
  QTemporaryDir folder;
  const std::filesystem::path path = folder.path().toStdString();
  writeJobFolder(made.job, path);
  QVERIFY(readJob(recipeIn(path), path).job.start == made.job.start);
  // A colour needs no file.
  if (start.from == StartPicture::From::colour)
    QVERIFY(readJob(made.job.recipe, path).job.start == made.job.start);
  else
    QVERIFY(fixtures::problemOf([&] { readJob(made.job.recipe, path); }).contains("start picture"));
}

void JobFolderTest::whatIsMissingIsSaid() {
  WorkStore store;
  QTemporaryDir folder;
  const std::filesystem::path path = folder.path().toStdString();
  writeJobFolder(jobFrom(wholeRecipe(kindOf("depth"), store), sourcesWith(store)).job, path);
  Recipe recipe = recipeIn(path);
  recipe.guides[0].regionFile.clear();
  const auto everywhere = readJob(recipe, path);
  QCOMPARE(everywhere.notes.size(), std::size_t{1});
  QVERIFY(QString::fromStdString(everywhere.notes[0]).contains("acts everywhere"));
  QVERIFY(everywhere.job.inputs[0].region.empty());
  // Another map in its place.
  writeFileAtomically(path / recipeIn(path).guides[0].mapFile, encodePng(Map(jobFrame).view()));
  QVERIFY(QString::fromStdString(readJob(recipeIn(path), path).notes.at(0)).contains("is not the map"));
  recipe = recipeIn(path);
  recipe.guides[0].mapFile.clear();
  QVERIFY(fixtures::problemOf([&] { readJob(recipe, path); }).contains("names no map file"));
  recipe = recipeIn(path);
  recipe.guides[0].workFiles["incense"] = "map-1-depth.png";
  QVERIFY(fixtures::problemOf([&] { readJob(recipe, path); }).contains("incense"));
}

void JobFolderTest::filesOutsideTheFolderAreRefused() {
  WorkStore store;
  QTemporaryDir folder;
  const std::filesystem::path path = std::filesystem::path(folder.path().toStdString()) / "job";
  writeJobFolder(jobFrom(wholeRecipe(kindOf("tone"), store), sourcesWith(store)).job, path);
  std::filesystem::copy_file(path / "region-1.png", path / ".." / "elsewhere.png");
  for (const std::string name : {"../elsewhere.png", "a/../../elsewhere.png", "/etc/hostname"}) {
    Recipe recipe = recipeIn(path);
    recipe.guides[0].regionFile = name;
    QVERIFY(fixtures::problemOf([&] { readJob(recipe, path); }).contains("not in its own folder"));
  }
}

void JobFolderTest::mapsAreMadeOnceForAllCells() {
  WorkStore store;
  int asked = 0;
  auto sources = sourcesWith(store);
  sources.pictures = [&](const RecipeReference&) {
    ++asked;
    return scene();
  };
  MadeMaps made(mostMadeBytes);
  Recipe recipe = wholeRecipe(kindOf("tone"), store);
  recipe.brief.start = {};
  const auto first = jobFrom(recipe, sources, {}, &made);
  recipe.guides[0].guide.weight = 0.3;
  recipe.brief.seed = 99;
  // The same picture under another id.
  recipe.references[0].id = recipe.guides[0].guide.reference = "r9";
  const auto second = jobFrom(recipe, sources, {}, &made);
  QCOMPARE(asked, 1);
  QVERIFY(first.job.inputs[0].map == second.job.inputs[0].map);
  // Another picture under the same id is another picture.
  recipe.references[0].content = "cafe";
  static_cast<void>(jobFrom(recipe, sources, {}, &made));
  QCOMPARE(asked, 2);
  // A cache with room for nothing still gives what is asked.
  MadeMaps tiny(1);
  QVERIFY(jobFrom(recipe, sources, {}, &tiny).job.inputs[0].map == first.job.inputs[0].map);
  QCOMPARE(tiny.cost(), std::size_t{0});
}

void JobFolderTest::mapsThatWereColouredElsewhereAreReadWhole() {
  WorkStore store;
  const QTemporaryDir folder;
  Recipe recipe = wholeRecipe(kindOf("edges"), store);
  recipe.guides[0].guide.work.clear(regionSlot);
  auto prepared = jobFrom(recipe, sourcesWith(store), {});
  writeJobFolder(prepared.job, folder.path().toStdString());
  // Somebody paints over the map in green, and their program keeps it in colours.
  Image<Rgb8> green(jobFrame.width, jobFrame.height, Rgb8{0, 255, 0});
  writeFileAtomically(fixtures::in(folder, "map-1-edges.png"), encodePng(green.view()));
  const auto job = readJob(recipeIn(folder.path().toStdString()), folder.path().toStdString());
  QCOMPARE(job.job.inputs[0].map(5, 5), static_cast<std::uint16_t>(std::lround(0.7152 * 65535)));
  QVERIFY(job.job.inputs[0].colour.empty());
}

HSCAFFOLD_TEST(JobFolderTest)
#include "job_folder_test.moc"
