// `hscaffold stage`, and `pattern` laid on corners and ground.
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>

#include "core/image/png.h"
#include "core/measure/scan.h"
#include "core/stage/scene.h"
#include "fixtures.h"
#include "program.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::run;

class StageCliTest : public QObject {
  Q_OBJECT
 private slots:
  void init() { folder_ = std::make_unique<QTemporaryDir>(); }
  void scenesAreMadeSeenAndSaid();
  void figuresComeBackOntoTheStage();
  void whatIsWrongWritesNothing_data();
  void whatIsWrongWritesNothing();
  void patternsLieOnTheGroundOfAScene();

 private:
  [[nodiscard]] QString path(const char* name) const { return folder_->filePath(name); }
  [[nodiscard]] Image<std::uint16_t> map(const char* name) const {
    return greyOf(decodePng(readWholeFile(fixtures::in(*folder_, name))).picture);
  }
  std::unique_ptr<QTemporaryDir> folder_;
};

void StageCliTest::scenesAreMadeSeenAndSaid() {
  QCOMPARE(run({"stage", "new", path("a.json"), "--set", "dune", "--pose", "Kneeling upright"}).code, 0);
  for (const char* kind : {"depth", "edges", "tone", "picture", "pose"}) {
    const auto done =
        run({"stage", "render", path("a.json"), "--map", kind, "-o", path("map.png"), "--size", "320x240"});
    QVERIFY2(done.code == 0, done.err.constData());
    const auto made = map("map.png");
    QCOMPARE(made.size(), (Size{320, 240}));
    std::set<std::uint16_t> values;
    for (int y = 0; y < made.height(); ++y)
      for (const auto v : made.line(y)) values.insert(v);
    QVERIFY2(values.size() > 3, kind);
  }
  QCOMPARE(run({"stage", "render", path("a.json"), "--map", "lines", "-o", path("l.svg"), "--by-depth"}).code, 0);
  QVERIFY(fixtures::readFile(fixtures::in(*folder_, "l.svg")).find("<path") != std::string::npos);
  QCOMPARE(run({"stage", "render", path("a.json"), "--map", "depth", "-o", path("d.exr")}).code, 0);
  QCOMPARE(run({"stage", "export", path("a.json"), "-o", path("a.gltf")}).code, 0);
  QVERIFY(QJsonDocument::fromJson(QByteArray::fromStdString(fixtures::readFile(fixtures::in(*folder_, "a.gltf"))))
              .isObject());
  // And comes back as a thing; a clip's frame as a figure.
  QCOMPARE(run({"stage", "new", path("m.json"), "--set", "figure", "--model", path("a.gltf")}).code, 0);
  QVERIFY(fixtures::readFile(fixtures::in(*folder_, "m.json")).find("\"model\"") != std::string::npos);
  QCOMPARE(run({"stage", "render", path("m.json"), "--map", "depth", "-o", path("m.png")}).code, 0);
  QVERIFY(run({"stage", "new", path("n.json"), "--model", path("d.exr")}).code != 0);
  QFile clip(path("wave.bvh"));
  QVERIFY(clip.open(QIODevice::WriteOnly));
  clip.write(fixtures::wavingClip().c_str());
  clip.close();
  QCOMPARE(run({"stage", "new", path("c.json"), "--set", "empty", "--clip", path("wave.bvh"), "--frame", "15"}).code,
           0);
  QVERIFY(run({"stage", "new", path("c.json"), "--set", "empty", "--clip", path("wave.bvh"), "--frame", "61"}).code !=
          0);
  // Depth of a picture that it stands in: its own, so that scales are known.
  QCOMPARE(run({"stage", "render", path("a.json"), "--map", "depth", "--size", "320x200", "-o", path("p.png")}).code,
           0);
  QCOMPARE(run({"stage", "render", path("a.json"), "--map", "depth", "--size", "320x200", "--over", path("p.png"), "-o",
                path("both.png")})
               .code,
           0);
  QVERIFY(
      run({"stage", "render", path("a.json"), "--map", "depth", "--over", path("p.png"), "-o", path("x.png")}).code !=
      0);
  const auto said = run({"--json", "stage", "say", path("a.json")});
  const auto json = QJsonDocument::fromJson(said.out).object();
  QVERIFY(json["words"].toString().contains("kneeling") && json["words"].toString().contains("walking"));
  QCOMPARE(json["things"].toArray().size(), 5);
}

void StageCliTest::figuresComeBackOntoTheStage() {
  QCOMPARE(run({"stage", "new", path("a.json"), "--set", "empty", "--pose", "Walking", "--pose", "Walking"}).code, 0);
  QCOMPARE(run({"stage", "render", path("a.json"), "--map", "pose", "-o", path("f.json"), "--fit"}).code, 0);
  QCOMPARE(run({"stage", "lift", path("f.json"), "-o", path("b.json"), "--height", "1.6", "--size", "768x512"}).code,
           0);
  const auto scene = stage::sceneFromText(fixtures::readFile(fixtures::in(*folder_, "b.json")), "b");
  QCOMPARE(scene.things.size(), std::size_t{2});
  for (const auto& thing : scene.things) {
    const float size = std::get<stage::Person>(thing.is).size;
    QVERIFY2(size > 1.3f && size < 1.9f && thing.place.at.y() == 0, qPrintable(QString::number(size)));
  }
}

void StageCliTest::whatIsWrongWritesNothing_data() {
  QTest::addColumn<QStringList>("arguments");
  QTest::addColumn<QString>("says");
  QTest::newRow("no such set") << QStringList{"stage", "new", "@out", "--set", "moon"} << "moon";
  QTest::newRow("no such pose") << QStringList{"stage", "new", "@out", "--pose", "Flying home"} << "Flying home";
  QTest::newRow("no such map") << QStringList{"stage", "render", "@in", "--map", "mist", "-o", "@out"} << "mist";
  QTest::newRow("no such shot") << QStringList{"stage", "render", "@in", "--shot", "Low", "-o", "@out"} << "Low";
  QTest::newRow("no scene") << QStringList{"stage", "render", "@none", "-o", "@out"} << "none";
  QTest::newRow("a picture") << QStringList{"stage", "render", "@picture", "-o", "@out"} << "picture";
  QTest::newRow("no figures") << QStringList{"stage", "lift", "@empty", "-o", "@out", "--size", "64x64"} << "figures";
  QTest::newRow("a size that nobody has")
      << QStringList{"stage", "render", "@in", "--size", "99999x2", "-o", "@out"} << "--size";
  QTest::newRow("corners that cross") << QStringList{"pattern", "code",      "--says",
                                                     "Hi",      "--corners", "10,10 90,90 90,10 10,90",
                                                     "--size",  "256x256",   "-o",
                                                     "@out"}
                                      << "one after the other";
  QTest::newRow("no ground") << QStringList{"pattern", "rose",    "--ground", "@picture",
                                            "--size",  "256x256", "-o",       "@out"}
                             << "";
}

void StageCliTest::whatIsWrongWritesNothing() {
  QFETCH(QStringList, arguments);
  QFETCH(QString, says);
  QCOMPARE(run({"stage", "new", path("in")}).code, 0);
  writeFileAtomically(fixtures::in(*folder_, "picture"), encodePng(Image<Rgb8>(64, 64, Rgb8{90, 90, 90})));
  const std::string empty = "{\"images\": [], \"annotations\": [], \"categories\": []}";
  writeFileAtomically(fixtures::in(*folder_, "empty"), bytesOf(empty));
  for (QString& each : arguments)
    if (each.startsWith('@')) each = path(qPrintable(each.mid(1)));
  const auto done = run(arguments);
  QVERIFY(done.code != 0);
  QVERIFY2(QString(done.err).contains(says), done.err.constData());
  QVERIFY(!QFile::exists(path("out")));
}

void StageCliTest::patternsLieOnTheGroundOfAScene() {
  QCOMPARE(run({"stage", "new", path("a.json"), "--set", "empty"}).code, 0);
  QCOMPARE(run({"stage", "render", path("a.json"), "--map", "depth", "-o", path("d.png"), "--size", "768x768"}).code,
           0);
  const auto done = run({"pattern", "code", "--says", "Hi", "--y", "78", "--module", "16", "--ground", path("d.png"),
                         "--size", "768x768", "-o", path("c.png")});
  QVERIFY2(done.code == 0, done.err.constData());
  // It gets narrower towards the horizon.
  const auto laid = map("c.png");
  const auto widthAt = [&](int y) {
    int left = laid.width(), right = 0;
    for (int x = 0; x < laid.width(); ++x)
      if (std::abs(laid(x, y) - 32768) > 8000) left = std::min(left, x), right = std::max(right, x);
    return right - left;
  };
  int top = 0, bottom = laid.height() - 1;
  while (top < laid.height() && widthAt(top) <= 0) ++top;
  while (bottom > 0 && widthAt(bottom) <= 0) --bottom;
  QVERIFY2(bottom - top > 60 && widthAt(bottom - 3) > 1.15 * widthAt(top + 3),
           qPrintable(QString("%1 to %2").arg(top).arg(bottom)));
}

HSCAFFOLD_TEST(StageCliTest)
#include "stage_cli_test.moc"
