// Figures in files: COCO key points, motion clips, SVG; and files that nobody should trust.
#include <QTest>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>
#include <random>

#include "core/pose/library.h"
#include "core/pose/pose_svg.h"
#include "core/pose/pose_words.h"
#include "core/pose/posing.h"
#include "files/figure_files.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;
using fixtures::problemOf;

namespace {

Figures someFigures() {
  Figures figures;
  figures.frame = {768, 512};
  std::mt19937 random(9);
  for (std::size_t i = 0; i < housePoses().size(); i += 7) {
    const NamedPose& pose = housePoses()[i];
    BodyPlace place;
    place.size = 100 + 31.7 * static_cast<double>(i);
    place.at = {static_cast<double>(i) * 40 / 3, 250.123456789};
    Figure figure = figureFrom(skeletonOf(pose.skeleton), pose.pose, place);
    figure.name = pose.name;
    figure.on = i % 2 == 0;
    for (KeyPoint& p : figure.points) {
      p.confidence = static_cast<double>(random() % 1000) / 1000;
      if (random() % 9 == 0) p.pinned = true;
      if (random() % 7 == 0) p.presence = Presence::absent;
    }
    if (i % 3 == 0) figure = withPart(figure, "right_hand", true);
    if (i % 14 == 0) figure.body.reset();
    figures.figures.push_back(std::make_shared<const Figure>(std::move(figure)));
  }
  return figures;
}

/// COCO as other programs write it.
nlohmann::json foreignCoco(int figures = 1) {
  nlohmann::json points = nlohmann::json::array();
  const Figure figure = figureFrom(skeletonOf("human"), housePoses()[0].pose, {{200, 150}, 200, {}});
  for (std::size_t i = 0; i < 17; ++i)
    for (const double v : {figure.points[i].at.x, figure.points[i].at.y, 2.0}) points.push_back(v);
  nlohmann::json list = nlohmann::json::array();
  for (int i = 0; i < figures; ++i)
    list.push_back({{"id", i}, {"image_id", 7}, {"category_id", 1}, {"keypoints", points}, {"score", 0.75}});
  return {{"images", {{{"id", 7}, {"width", 400}, {"height", 300}}}},
          {"categories", {{{"id", 1}, {"name", "person"}}}},
          {"annotations", list}};
}

CocoFigures read(const nlohmann::json& json) { return figuresFromCoco(json.dump(), "in.json"); }

struct Joint {
  const char* name;
  const char* parent;
  double x, y, z;
};
/// A clip in which the right arm rises sideways from hanging down.
std::string clip(int frames, const char* arm = "RightArm") {
  const std::vector<Joint> joints = {{"Hips", "", 0, 95, 0},
                                     {"Spine", "Hips", 0, 20, 0},
                                     {"Neck", "Spine", 0, 36, 0},
                                     {"Head", "Neck", 0, 8, 0},
                                     {"LeftArm", "Spine", 19, 33, 0},
                                     {"LeftForeArm", "LeftArm", 0, -33, 0},
                                     {"LeftHand", "LeftForeArm", 0, -26, 0},
                                     {arm, "Spine", -19, 33, 0},
                                     {"RightForeArm", arm, 0, -33, 0},
                                     {"RightHand", "RightForeArm", 0, -26, 0},
                                     {"LeftUpLeg", "Hips", 10, -2, 0},
                                     {"LeftLeg", "LeftUpLeg", 0, -42, 0},
                                     {"LeftFoot", "LeftLeg", 0, -42, 0},
                                     {"RightUpLeg", "Hips", -10, -2, 0},
                                     {"RightLeg", "RightUpLeg", 0, -42, 0},
                                     {"RightFoot", "RightLeg", 0, -42, 0}};
  std::string text = "HIERARCHY\n", motion;
  std::vector<std::string> order;
  const std::function<void(const std::string&, int)> put = [&](const std::string& parent, int depth) {
    for (const Joint& joint : joints) {
      if (parent != joint.parent) continue;
      const std::string pad(static_cast<std::size_t>(depth), ' ');
      text += pad + (depth == 0 ? "ROOT " : "JOINT ") + joint.name + "\n" + pad + "{\n" + pad + "OFFSET " +
              std::to_string(joint.x) + " " + std::to_string(joint.y) + " " + std::to_string(joint.z) + "\n" + pad;
      text += depth == 0 ? "CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n"
                         : "CHANNELS 3 Zrotation Xrotation Yrotation\n";
      order.emplace_back(joint.name);
      const std::size_t before = order.size();
      put(joint.name, depth + 1);
      if (order.size() == before) text += pad + "End Site\n" + pad + "{\n" + pad + "OFFSET 0 5 0\n" + pad + "}\n";
      text += pad + "}\n";
    }
  };
  put("", 0);
  text += "MOTION\nFrames: " + std::to_string(frames) + "\nFrame Time: 0.0333333\n";
  for (int f = 0; f < frames; ++f) {
    for (const std::string& name : order) {
      if (name == "Hips") text += "0 95 0 ";
      // About z, towards the figure's right: clockwise as seen from the front.
      text += name == arm ? std::to_string(-90.0 * f / std::max(1, frames - 1)) + " 0 0 " : "0 0 0 ";
    }
    text += "\n";
  }
  return text;
}

}  // namespace

class FigureFilesTest : public QObject {
  Q_OBJECT
 private slots:
  void cocoComesBackWhole();
  void cocoIsAsOthersReadIt();
  void foreignCocoIsRead();
  void resultsAreRead();
  void picturesOfAnotherSizeAreFitted();
  void wrongCocoIsNamed_data();
  void wrongCocoIsNamed();
  void clipsAreRead();
  void camerasGoRound();
  void unknownJointsAreMapped();
  void wrongClipsAreNamed_data();
  void wrongClipsAreNamed();
  void mutilatedFilesAreRefused();
  void svgHasTheFigures();
};

void FigureFilesTest::cocoComesBackWhole() {
  const Figures figures = someFigures();
  QVERIFY(figures.figures.size() >= 8);
  const auto back = read(cocoFrom(figures));
  QCOMPARE(back.size, figures.frame);
  QVERIFY(back.note.empty());
  QCOMPARE(back.figures.figures.size(), figures.figures.size());
  for (std::size_t i = 0; i < figures.figures.size(); ++i) QVERIFY(*back.figures.figures[i] == *figures.figures[i]);
  QCOMPARE(QString::fromStdString(cocoFrom(back.figures).dump()), QString::fromStdString(cocoFrom(figures).dump()));
}

void FigureFilesTest::cocoIsAsOthersReadIt() {
  const auto json = cocoFrom(someFigures());
  const auto& person = json["categories"][0];
  QCOMPARE(person["name"].get<std::string>(), std::string("person"));
  QCOMPARE(person["keypoints"].size(), std::size_t{17});
  QCOMPARE(person["keypoints"][9].get<std::string>(), std::string("left_wrist"));
  for (const auto& entry : json["annotations"]) {
    const auto& category = json["categories"][entry["category_id"].get<std::size_t>() - 1];
    QCOMPARE(entry["keypoints"].size(), 3 * category["keypoints"].size());
    int there = 0;
    for (std::size_t i = 2; i < entry["keypoints"].size(); i += 3) {
      const int v = entry["keypoints"][i].get<int>();
      QVERIFY(v >= 0 && v <= 2);
      there += v > 0 ? 1 : 0;
    }
    QCOMPARE(entry["num_keypoints"].get<int>(), there);
  }
}

void FigureFilesTest::foreignCocoIsRead() {
  const auto figures = read(foreignCoco(2));
  QCOMPARE(figures.figures.figures.size(), std::size_t{2});
  const Figure& figure = *figures.figures.figures[0];
  QCOMPARE(figure.points[0].confidence, 0.75);
  // A neck that COCO does not have lies between the shoulders.
  const Skeleton& human = skeletonOf("human");
  const KeyPoint& neck = figure.points[*human.find("neck")];
  QVERIFY(neck.there());
  QCOMPARE(neck.at.x, (figure.points[5].at.x + figure.points[6].at.x) / 2);
  QVERIFY(std::abs(sizeOf(figure) - 200) < 20);
  QVERIFY(overlength(figure) <= lengthTolerance);
  QCOMPARE(wordsFor(figure).stance, std::string("standing"));
  // Points off the picture, hidden and absent ones are taken as they are.
  auto odd = foreignCoco();
  odd["annotations"][0]["keypoints"][3] = -250.5;
  odd["annotations"][0]["keypoints"][8] = 0;
  odd["annotations"][0]["keypoints"][11] = 1;
  const Figure points = *read(odd).figures.figures[0];
  QCOMPARE(points.points[1].at.x, -250.5);
  QVERIFY(!points.points[2].there());
  QVERIFY(points.points[3].presence == Presence::hidden);
  // Another picture's figures are left out, and so are those without a point.
  auto other = foreignCoco(3);
  other["annotations"][2]["image_id"] = 8;
  QCOMPARE(read(other).figures.figures.size(), std::size_t{2});
  QVERIFY(read(other).note.find("other pictures") != std::string::npos);
  auto empty = foreignCoco(2);
  for (auto& v : empty["annotations"][1]["keypoints"]) v = 0;
  QCOMPARE(read(empty).figures.figures.size(), std::size_t{1});
}

void FigureFilesTest::resultsAreRead() {
  auto list = foreignCoco(2)["annotations"];
  for (auto& entry : list)
    for (std::size_t i = 2; i < entry["keypoints"].size(); i += 3) entry["keypoints"][i] = 0.41;
  const auto figures = figuresFromCoco(list.dump(), "results.json");
  QCOMPARE(figures.figures.figures.size(), std::size_t{2});
  QCOMPARE(figures.figures.figures[0]->points[4].confidence, 0.41);
  QVERIFY(figures.figures.figures[0]->points[4].presence == Presence::seen);
  QCOMPARE(figures.size.width, 0);
  const std::string text = list.dump();
  QVERIFY(problemOf([&] { figuresFromFile(bytesOf(text), "results.json", {}); }).contains("how large"));
}

void FigureFilesTest::picturesOfAnotherSizeAreFitted() {
  const std::string text = foreignCoco().dump();
  const auto same = figuresFromFile(bytesOf(text), "in.json", {});
  const auto twice = figuresFromFile(bytesOf(text), "in.json", {800, 600});
  QVERIFY(distanceBetween(twice.figures.figures[0]->points[9].at, same.figures.figures[0]->points[9].at * 2) < 1e-9);
  const auto wide = figuresFromFile(bytesOf(text), "in.json", {1000, 300});
  QVERIFY(distanceBetween(wide.figures.figures[0]->points[9].at,
                          same.figures.figures[0]->points[9].at + Point{300, 0}) < 1e-9);
}

void FigureFilesTest::wrongCocoIsNamed_data() {
  QTest::addColumn<QString>("pointer");
  QTest::addColumn<QString>("value");  // empty: taken out
  QTest::addColumn<QString>("named");
  const QString points = "/annotations/1/keypoints";
  QTest::addRow("no annotations") << "/annotations"
                                  << ""
                                  << "annotations";
  QTest::addRow("no list") << "/annotations"
                           << "{}"
                           << "annotations";
  QTest::addRow("no points") << points << ""
                             << "annotation 2";
  QTest::addRow("too few") << points + "/50"
                           << ""
                           << "50 numbers";
  QTest::addRow("no number") << points + "/4"
                             << "\"left\""
                             << "number 5";
  QTest::addRow("null for NaN") << points + "/4"
                                << "null"
                                << "number 5";
  QTest::addRow("huge") << points + "/4"
                        << "1e300"
                        << "number 5";
  QTest::addRow("visibility") << points + "/5"
                              << "3"
                              << "number 6";
  QTest::addRow("negative visibility") << points + "/5"
                                       << "-1"
                                       << "number 6";
  QTest::addRow("category") << "/annotations/1/category_id"
                            << "5"
                            << "category 5";
  QTest::addRow("a car") << "/categories/0/name"
                         << "\"car\""
                         << "car";
}

void FigureFilesTest::wrongCocoIsNamed() {
  QFETCH(QString, pointer);
  QFETCH(QString, value);
  QFETCH(QString, named);
  auto json = foreignCoco(2);
  const nlohmann::json::json_pointer at(pointer.toStdString());
  if (value.isEmpty()) {
    auto& parent = json[at.parent_pointer()];
    if (parent.is_array())
      parent.erase(std::stoul(at.back()));
    else
      parent.erase(at.back());
  } else {
    json[at] = nlohmann::json::parse(value.toStdString());
  }
  const QString message = problemOf([&] { read(json); });
  QVERIFY2(message.contains(named) && message.contains("in.json"), qPrintable(message));
}

void FigureFilesTest::clipsAreRead() {
  const auto bvh = bvhFrom(clip(11), "wave.bvh");
  QCOMPARE(bvh.frames, std::size_t{11});
  QCOMPARE(bvh.channels, std::size_t{6 + 3 * 15});
  const auto mapping = mappingByName(bvh);
  QVERIFY(missingIn(mapping).empty());
  const Skeleton& human = skeletonOf("human");
  const auto point = [&](const Figure& figure, const char* id) { return figure.points[*human.find(id)].at; };
  const Figure hanging = figureOf(bvh, 0, mapping, {}), spread = figureOf(bvh, 10, mapping, {});
  QVERIFY(point(hanging, "right_wrist").y > point(hanging, "right_shoulder").y + 50);
  // Seen from the front its right is on our left.
  QVERIFY(point(spread, "right_wrist").x < point(spread, "right_shoulder").x - 50);
  QVERIFY(std::abs(point(spread, "right_wrist").y - point(spread, "right_shoulder").y) < 1e-3);
  QVERIFY(point(spread, "nose").y < point(spread, "neck").y);
  QVERIFY(overlength(spread) <= lengthTolerance);
  const std::string text = clip(11);
  ClipChoice choice;
  choice.frame = 10;
  const auto file = figuresFromFile(bytesOf(text), "wave.bvh", {640, 480}, choice);
  const auto bounds = *boundsOf(*file.figures.figures[0]);
  QVERIFY(bounds.top >= 59 && bounds.bottom <= 421 && bounds.height() > 300);
  QCOMPARE(wordsFor(*file.figures.figures[0]).stance, std::string("standing"));
  choice.frame = 11;
  QVERIFY(problemOf([&] { figuresFromFile(bytesOf(text), "wave.bvh", {640, 480}, choice); }).contains("no frame 11"));
}

void FigureFilesTest::camerasGoRound() {
  const auto bvh = bvhFrom(clip(3), "wave.bvh");
  const auto mapping = mappingByName(bvh);
  const Skeleton& human = skeletonOf("human");
  const auto across = [&](const BvhView& view) {
    const Figure figure = figureOf(bvh, 0, mapping, view);
    return figure.points[*human.find("left_shoulder")].at.x - figure.points[*human.find("right_shoulder")].at.x;
  };
  QVERIFY(std::abs(across({0, 0}) - 38) < 1e-3);
  QVERIFY(std::abs(across({90, 0})) < 1e-3);
  QVERIFY(std::abs(across({180, 0}) + 38) < 1e-3);
  // From above the figure is foreshortened.
  const auto tall = [&](double rise) { return boundsOf(figureOf(bvh, 0, mapping, {0, rise}))->height(); };
  QVERIFY(tall(60) < 0.6 * tall(0));
}

void FigureFilesTest::unknownJointsAreMapped() {
  const auto bvh = bvhFrom(clip(3, "Oddment"), "odd.bvh");
  auto mapping = mappingByName(bvh);
  QCOMPARE(missingIn(mapping), std::vector<std::string>{"right_shoulder"});
  QVERIFY(problemOf([&] { figureOf(bvh, 0, mapping, {}); }).contains("right_shoulder"));
  ClipChoice choice;
  choice.joints["right_shoulder"] = "Oddment";
  QVERIFY(missingIn(mappingFor(bvh, choice)).empty());
  choice.joints["right_shoulder"] = "Nobody";
  QVERIFY(problemOf([&] { mappingFor(bvh, choice); }).contains("Nobody"));
}

void FigureFilesTest::wrongClipsAreNamed_data() {
  QTest::addColumn<QString>("from");
  QTest::addColumn<QString>("to");
  QTest::addColumn<QString>("named");
  QTest::addRow("not one") << "HIERARCHY"
                           << "HIERARCHIE"
                           << "HIERARCHY";
  QTest::addRow("a channel") << "Xrotation"
                             << "Xrotatoin"
                             << "Xrotatoin";
  QTest::addRow("a channel count") << "CHANNELS 6"
                                   << "CHANNELS 5"
                                   << "line";
  QTest::addRow("channels twice") << "CHANNELS 6 Xposition"
                                  << "CHANNELS 1 Yposition CHANNELS 6 Xposition"
                                  << "twice";
  QTest::addRow("many channels") << "CHANNELS 6"
                                 << "CHANNELS 66"
                                 << "66";
  QTest::addRow("a million frames") << "Frames: 4"
                                    << "Frames: 1000000"
                                    << "1000000 frames";
  QTest::addRow("more frames than there are") << "Frames: 4"
                                              << "Frames: 5"
                                              << "too early";
  QTest::addRow("fewer frames than there are") << "Frames: 4"
                                               << "Frames: 3"
                                               << "more numbers";
  QTest::addRow("no frames") << "Frames: 4"
                             << "Frames: 0"
                             << "no frames";
  QTest::addRow("no number") << "OFFSET 0.000000 95"
                             << "OFFSET zero 95"
                             << "zero";
  QTest::addRow("not a number") << "OFFSET 0.000000 95"
                                << "OFFSET nan 95"
                                << "nan";
}

void FigureFilesTest::wrongClipsAreNamed() {
  QFETCH(QString, from);
  QFETCH(QString, to);
  QFETCH(QString, named);
  QString text = QString::fromStdString(clip(4));
  QVERIFY(text.contains(from));
  text.replace(text.indexOf(from), from.size(), to);
  const std::string broken = text.toStdString();
  const QString message = problemOf([&] { bvhFrom(broken, "wave.bvh"); });
  QVERIFY2(message.contains(named) && message.contains("wave.bvh"), qPrintable(message));
}

void FigureFilesTest::mutilatedFilesAreRefused() {
  QVERIFY(problemOf([&] { read(foreignCoco(10'000)); }).contains("10000 figures"));
  QVERIFY(problemOf([] {
            figuresFromCoco("{\"annotations\": [{\"keypoints\": [NaN, 1, 2]}]}", "in.json");
          }).contains("in.json"));
  // Cut off or with bytes changed anywhere, a file is read or refused with a sentence; nothing else happens.
  std::mt19937 random(3);
  for (const std::string& whole : {foreignCoco(2).dump(), cocoFrom(someFigures()).dump(), clip(3)})
    for (int i = 0; i < 300; ++i) {
      std::string broken = whole.substr(0, i % 2 == 0 ? whole.size() : random() % whole.size());
      for (int k = 0; k < 3 && !broken.empty(); ++k)
        broken[random() % broken.size()] = static_cast<char>(random() % 127);
      try {
        for (const auto& figure : figuresFromFile(bytesOf(broken), "broken", {320, 240}).figures.figures)
          QVERIFY(figure->points.size() == figure->kind().points.size());
      } catch (const Problem& problem) {
        QVERIFY(problem.kind() == Problem::Kind::badInput);
      }
    }
}

void FigureFilesTest::svgHasTheFigures() {
  Figures figures = someFigures();
  const std::string text = pose::svgFrom(figures, pose::houseInks(), 1, "Two & three");
  pugi::xml_document document;
  QVERIFY(document.load_string(text.c_str()));
  const auto root = document.child("svg");
  QCOMPARE(root.attribute("width").as_int(), 768);
  QCOMPARE(QString(root.child("title").text().as_string()), QString("Two & three"));
  int groups = 0, shapes = 0;
  for (const auto group : root.children("g")) {
    ++groups;
    for (const auto shape : group.children()) {
      shapes += std::string(shape.name()) != "title" ? 1 : 0;
      QVERIFY(!QString(shape.attribute("d").as_string()).contains("nan"));
    }
  }
  QCOMPARE(groups, static_cast<int>(figures.figures.size()));
  QVERIFY(shapes > 12 * 4);
}

HSCAFFOLD_TEST(FigureFilesTest)
#include "figure_files_test.moc"
