// Things from glTF files: what is written is read, hostile files end in a sentence, large ones are made smaller.
#include <QTest>
#include <cstring>
#include <nlohmann/json.hpp>

#include "core/base64.h"
#include "core/stage/gltf.h"
#include "core/stage/model.h"
#include "core/stage/props.h"
#include "core/stage/scene.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;
using Json = nlohmann::json;

namespace {

ReadModel read(const std::string& text) { return modelFrom(bytesOf(text), "thing.gltf"); }
QString saidOf(const std::string& text) {
  return fixtures::problemOf([&] { (void)read(text); });
}

Json boxFile() {
  const std::vector<Mesh> meshes = {box({{1, 0, 2}, 30}, {1, 2, 0.5f}, {1, 0, 0})};
  return Json::parse(gltfFrom(meshes));
}

/// The same in one file of chunks.
std::string chunked(Json file) {
  const std::string uri = file["buffers"][0]["uri"];
  const auto bytes = *fromBase64(std::string_view(uri).substr(uri.find(',') + 1));
  file["buffers"][0].erase("uri");
  std::string text = file.dump();
  text.resize((text.size() + 3) / 4 * 4, ' ');
  std::string out;
  const auto put = [&](std::uint32_t word) { out.append(reinterpret_cast<const char*>(&word), 4); };
  put(0x46546c67);
  put(2);
  put(static_cast<std::uint32_t>(12 + 8 + text.size() + 8 + bytes.size()));
  put(static_cast<std::uint32_t>(text.size()));
  put(0x4e4f534a);
  out += text;
  put(static_cast<std::uint32_t>(bytes.size()));
  put(0x004e4942);
  out.append(reinterpret_cast<const char*>(bytes.data()), bytes.size());
  return out;
}

/// A waved sheet of so many fields either way.
std::string sheetFile(int fields) {
  Mesh mesh;
  addSheet(mesh, {-1, 0, 0}, {2, 0, 0}, {0, 2, 0}, {1, 1, 1}, fields, fields);
  for (Vec3& p : mesh.at) p.z() = 0.2f * std::sin(6 * p.x()) * std::cos(5 * p.y());
  computeNormals(mesh);
  return gltfFrom(std::vector<Mesh>{mesh});
}

}  // namespace

class ModelTest : public QObject {
  Q_OBJECT
 private slots:
  void whatIsWrittenIsRead();
  void coloursOfMaterialsAreTaken();
  void partsLieWhereTheyAreTurnedTo();
  void partsWithinThemselvesEnd();
  void brokenFilesEndInASentence_data();
  void brokenFilesEndInASentence();
  void cutOffFilesEndInASentence();
  void millionsAreMadeSmaller();
  void modelsStandInScenes();
  void base64IsReadBack();
};

void ModelTest::whatIsWrittenIsRead() {
  for (const std::string& text : {boxFile().dump(), chunked(boxFile())}) {
    const auto got = read(text);
    QCOMPARE(got.faces, std::size_t{12});
    QCOMPARE(got.model->faces.size(), std::size_t{12});
    QVERIFY(got.model->at.size() >= 8 && got.model->at.size() <= 24);
    QVERIFY(std::abs(got.size.y() - 2) < 1e-3f);
    for (const Vec3& p : got.model->at)
      QVERIFY(std::abs(p.x()) < 0.51f && p.y() > -0.01f && p.y() < 1.01f && std::abs(p.z()) < 0.51f);
  }
}

void ModelTest::coloursOfMaterialsAreTaken() {
  Json file = boxFile();
  QVERIFY(!read(file.dump()).colour);
  const auto coloured = [&](const Json& factor) {
    file["materials"] = Json::array({{{"pbrMetallicRoughness", {{"baseColorFactor", factor}}}}});
    file["meshes"][0]["primitives"][0]["material"] = 0;
    return read(file.dump()).colour;
  };
  const auto colour = coloured({0.5, 0.25, 0.125, 1});
  QVERIFY(colour && std::abs(colour->r - 0.5f) < 1e-4f && std::abs(colour->b - 0.125f) < 1e-4f);
  QVERIFY(coloured({7, -3, 0, 1}) == (Rgb{1, 0, 0}));
  for (const Json& none : {Json{1, 2}, Json{"red", 0, 0, 1}, Json(3), Json()}) QVERIFY(!coloured(none));
  file["meshes"][0]["primitives"][0]["material"] = 12;
  QVERIFY(!read(file.dump()).colour);
  // Two parts: by what they cover.
  file["materials"] = Json::array({{{"pbrMetallicRoughness", {{"baseColorFactor", {1, 0, 0, 1}}}}},
                                   {{"pbrMetallicRoughness", {{"baseColorFactor", {0, 0, 1, 1}}}}}});
  file["meshes"][0]["primitives"][0]["material"] = 0;
  file["meshes"].push_back(file["meshes"][0]);
  file["meshes"][1]["primitives"][0]["material"] = 1;
  file["nodes"] = Json::array({{{"mesh", 0}, {"scale", {1, 1, 1}}}, {{"mesh", 1}, {"scale", {2, 2, 2}}}});
  file["scenes"] = Json::array({{{"nodes", {0, 1}}}});
  const auto both = read(file.dump()).colour;
  QVERIFY(both && std::abs(both->r - 0.2f) < 1e-3f && std::abs(both->b - 0.8f) < 1e-3f);
}

void ModelTest::partsLieWhereTheyAreTurnedTo() {
  Json file = boxFile();
  file["nodes"] = Json::array(
      {{{"children", {1}}, {"scale", {2, 2, 2}}}, {{"mesh", 0}, {"rotation", {0, 0, std::sqrt(0.5), std::sqrt(0.5)}}}});
  file["scenes"] = Json::array({{{"nodes", {0}}}});
  // Lying on its side, twice as large.
  const auto got = read(file.dump());
  QVERIFY(std::abs(got.size.x() - 4) < 1e-2f);
  QVERIFY(got.size.y() < 3);
}

void ModelTest::partsWithinThemselvesEnd() {
  Json file = boxFile();
  file["nodes"] = Json::array({{{"children", {1}}}, {{"children", {0, 1}}, {"mesh", 0}}});
  file["scenes"] = Json::array({{{"nodes", {0, 0, 1}}}});
  QCOMPARE(read(file.dump()).faces, std::size_t{12});
}

void ModelTest::brokenFilesEndInASentence_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<QString>("says");
  const auto with = [](const std::function<void(Json&)>& change) {
    Json file = boxFile();
    change(file);
    return QString::fromStdString(file.dump());
  };
  QTest::newRow("text") << "not a model"
                        << "no glTF";
  QTest::newRow("empty") << ""
                         << "no glTF";
  QTest::newRow("other JSON") << "{\"asset\": {}}"
                              << "no triangles";
  QTest::newRow("count") << with([](Json& f) { f["accessors"][0]["count"] = 4000000000u; }) << "million";
  QTest::newRow("count a little") << with([](Json& f) { f["accessors"][0]["count"] = 100000; }) << "cut off";
  QTest::newRow("count negative") << with([](Json& f) { f["accessors"][0]["count"] = -5; }) << "not there";
  QTest::newRow("view") << with([](Json& f) { f["accessors"][0]["bufferView"] = 99; }) << "not there";
  QTest::newRow("offset") << with([](Json& f) { f["bufferViews"][0]["byteOffset"] = 18446744073709551615ull; })
                          << "not there";
  QTest::newRow("length") << with([](Json& f) { f["bufferViews"][0]["byteLength"] = 18446744073709551615ull; })
                          << "not there";
  QTest::newRow("stride") << with([](Json& f) { f["bufferViews"][0]["byteStride"] = 1; }) << "not there";
  QTest::newRow("type") << with([](Json& f) { f["accessors"][0]["type"] = "VEC4"; }) << "type";
  QTest::newRow("component") << with([](Json& f) { f["accessors"][0]["componentType"] = 5120; }) << "not read";
  QTest::newRow("sparse") << with([](Json& f) { f["accessors"][0]["sparse"] = Json::object(); }) << "sparsely";
  QTest::newRow("elsewhere") << with([](Json& f) { f["buffers"][0]["uri"] = "points.bin"; }) << "another file";
  QTest::newRow("no base64") << with([](Json& f) {
    f["buffers"][0]["uri"] = "data:application/octet-stream;base64,####";
  }) << "cannot be read";
  QTest::newRow("nodes") << with([](Json& f) { f["nodes"] = Json(std::vector<Json>(30000, Json::object())); })
                         << "parts";
  QTest::newRow("shapes of all kinds") << with([](Json& f) {
    f["nodes"] = 7;
    f["meshes"] = "none";
  }) << "no triangles";
  QTest::newRow("nowhere") << with([](Json& f) { f["nodes"][0]["scale"] = {3e38, 3e38, 3e38}; }) << "nowhere";
  QTest::newRow("no size") << with([](Json& f) { f["nodes"][0]["scale"] = {0, 0, 0}; }) << "no size";
}

void ModelTest::brokenFilesEndInASentence() {
  QFETCH(QString, text);
  QFETCH(QString, says);
  const QString said = saidOf(text.toStdString());
  QVERIFY2(said.contains(says), qPrintable(said));
}

void ModelTest::cutOffFilesEndInASentence() {
  const std::string whole = chunked(boxFile());
  for (std::size_t length = 0; length + 1 < whole.size(); length += 37)
    QVERIFY2(!saidOf(whole.substr(0, length)).isEmpty(), qPrintable(QString::number(length)));
}

void ModelTest::millionsAreMadeSmaller() {
  const auto got = read(sheetFile(800));
  QCOMPARE(got.faces, std::size_t{1280000});
  QVERIFY(got.model->faces.size() <= mostModelFaces && got.model->at.size() <= mostModelPoints);
  QVERIFY(got.model->faces.size() > 1000);
  // It lies where it lay.
  for (const Vec3& p : got.model->at) {
    const float x = 2 * p.x(), y = 2 * p.y(), z = 0.2f * std::sin(6 * x) * std::cos(5 * y);
    QVERIFY(std::abs(p.z() * got.size.z() - z) < 0.05f);
  }
}

void ModelTest::modelsStandInScenes() {
  const auto got = read(boxFile().dump());
  Scene scene;
  Prop prop = usualProp(Prop::Form::model);
  prop.model = got.model;
  prop.size = {1, 3, 1};
  scene.things.push_back({"t1", "Crate", {{1, 0, 0}, 45}, false, prop});
  const auto set = setOf(scene);
  float high = 0;
  for (const Vec3& p : set.meshes[0].at) high = std::max(high, p.y());
  QVERIFY(std::abs(high - 3) < 1e-3f);
  const std::string text = sceneToText(scene);
  const Scene back = sceneFromText(text, "test");
  QCOMPARE(sceneToText(back), text);
  QCOMPARE(std::get<Prop>(back.things[0].is).model->faces.size(), std::size_t{12});
  Json broken = Json::parse(text);
  broken["things"][0]["prop"]["faces"] = "////////";
  QVERIFY(!fixtures::problemOf([&] { (void)sceneFromText(broken.dump(), "test"); }).isEmpty());
  broken["things"][0]["prop"].erase("points");
  QVERIFY(!fixtures::problemOf([&] { (void)sceneFromText(broken.dump(), "test"); }).isEmpty());
}

void ModelTest::base64IsReadBack() {
  for (std::size_t length = 0; length < 70; ++length) {
    std::vector<std::byte> bytes;
    for (std::size_t i = 0; i < length; ++i) bytes.push_back(static_cast<std::byte>(i * 37 + length));
    const std::string text = base64(bytes);
    QCOMPARE(QByteArray::fromStdString(text),
             QByteArray(reinterpret_cast<const char*>(bytes.data()), static_cast<qsizetype>(length)).toBase64());
    QVERIFY(fromBase64(text) == bytes);
  }
  for (const char* wrong : {"a", "abc#", "ab cd", "\xff\xff\xff\xff"}) QVERIFY2(!fromBase64(wrong), wrong);
}

HSCAFFOLD_TEST(ModelTest)
#include "model_test.moc"
