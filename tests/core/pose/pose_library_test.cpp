// The library of poses, and the words for a pose.
#include <QTest>
#include <nlohmann/json.hpp>
#include <set>

#include "core/pose/pose_fixtures.h"
#include "core/pose/pose_words.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;
using namespace fixtures;

class PoseLibraryTest : public QObject {
  Q_OBJECT
 private slots:
  void theLibraryIsLargeAndFound();
  void wrongPosesAreNamed_data();
  void wrongPosesAreNamed();
  void ownPosesComeBack();
  void libraryPosesAreToldByTheirNames();
  void wordsNameSidesAndHands();
  void promptsAreKeptUpToDate();
};

void PoseLibraryTest::theLibraryIsLargeAndFound() {
  int people = 0, animals = 0;
  std::set<std::string> categories, names;
  for (const NamedPose& pose : housePoses()) {
    (pose.skeleton == "human" ? people : animals)++;
    categories.insert(pose.category);
    QVERIFY2(names.insert(pose.skeleton + pose.name).second, pose.name.c_str());
    QVERIFY(!pose.tags.empty());
  }
  QVERIFY(people >= 48 && animals >= 8);
  for (const char* category :
       {"standing", "walking", "running", "sitting", "kneeling", "crouching", "lying", "reaching", "carrying",
        "climbing", "dancing", "working with the hands", "flying a kite"})
    QVERIFY2(categories.contains(category), category);
  for (const std::size_t i : foundPoses(housePoses(), "kneel")) QVERIFY(housePoses()[i].category == "kneeling");
  QCOMPARE(foundPoses(housePoses(), "").size(), housePoses().size());
  QVERIFY(!foundPoses(housePoses(), "Kite STRING").empty());
  QVERIFY(foundPoses(housePoses(), "kneeling fox").empty());
}

void PoseLibraryTest::wrongPosesAreNamed_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<QString>("named");
  QTest::addRow("no list") << "{\"poses\": 1}"
                           << "list";
  QTest::addRow("unknown turn") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"angles\":{\"left_wing.bend\":3}}]}"
                                << "left_wing.bend";
  QTest::addRow("beyond limits") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"angles\":{\"left_elbow.bend\":170}}]}"
                                 << "0 to 150";
  QTest::addRow("unknown skeleton") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"skeleton\":\"bird\",\"angles\":{}}]}"
                                    << "bird";
  QTest::addRow("second pose") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"angles\":{}},{\"angles\":{}}]}"
                               << "pose 2";
  QTest::addRow("no JSON") << "poses"
                           << "mine";
}

void PoseLibraryTest::wrongPosesAreNamed() {
  QFETCH(QString, text);
  QFETCH(QString, named);
  const QString message = problemOf([&] { posesFromJson(text.toStdString(), "mine.json"); });
  QVERIFY2(message.contains(named) && message.contains("mine.json"), qPrintable(message));
}

void PoseLibraryTest::ownPosesComeBack() {
  const std::vector<NamedPose> some(housePoses().begin(), housePoses().begin() + 5);
  QVERIFY(posesFromJson(posesToJson(some, "mine"), "mine.json") == some);
}

void PoseLibraryTest::libraryPosesAreToldByTheirNames() {
  const std::set<std::string> told = {"standing", "walking", "running", "sitting", "kneeling", "crouching", "lying"};
  int right = 0, asked = 0;
  for (const NamedPose& pose : housePoses()) {
    if (!told.contains(pose.category)) continue;
    ++asked;
    const auto words = wordsFor(skeletonOf(pose.skeleton), pose.pose);
    const bool good = agree(words.stance, pose.category);
    right += good ? 1 : 0;
    if (!good) qInfo("%s is told as %s", pose.name.c_str(), words.text().c_str());
  }
  QVERIFY2(right >= asked - 1, qPrintable(QString("%1 of %2").arg(right).arg(asked)));
  // The same from the places in the picture alone.
  Figure flat = posedAs("Sitting on a chair");
  flat.body.reset();
  QCOMPARE(wordsFor(flat).stance, std::string("sitting"));
}

void PoseLibraryTest::wordsNameSidesAndHands() {
  const auto told = [](const char* pose, double turn) {
    return wordsFor(human(), seenFrom(human(), *posedAs(pose).body, turn)).text();
  };
  QVERIFY(told("Reaching up", 0).find("left arm raised") != std::string::npos);
  QVERIFY(told("Standing straight", 0).find("seen from the front") != std::string::npos);
  QVERIFY(told("Standing straight", 180).find("seen from behind") != std::string::npos);
  QVERIFY(told("Walking", -90).find("facing left") != std::string::npos);
  // Mirrored, the other arm is raised and it faces the other way.
  const auto mirrorWords = wordsFor(mirrored(posedAs("Reaching up"), 100)).text();
  QVERIFY(mirrorWords.find("right arm raised") != std::string::npos);
  Figures two;
  two.frame = {800, 600};
  Figure flyer = posedAs("Flying a kite"), far = posedAs("Walking");
  flyer.name = "Flyer";
  far.name = "Far walker";
  two.figures = {std::make_shared<const Figure>(far), std::make_shared<const Figure>(flyer)};
  const std::string text = wordsFor(two);
  QVERIFY2(text.starts_with("Flyer ") && text.find("Far walker walking") != std::string::npos, text.c_str());
}

void PoseLibraryTest::promptsAreKeptUpToDate() {
  const auto first = withPoseWords("a kite flyer", {}, "running, facing left");
  QCOMPARE(*first, std::string("a kite flyer, running, facing left"));
  const auto second = withPoseWords(*first, "running, facing left", "sitting");
  QCOMPARE(*second, std::string("a kite flyer, sitting"));
  QVERIFY(!withPoseWords("a kite flyer, running fast", "running, facing left", "sitting"));
  QVERIFY(stancesIn("A girl RUNNING home, seated dogs") == (std::vector<std::string>{"running", "sitting"}));
  QVERIFY(stancesIn("a runway, a sitter").empty());
  QVERIFY(!agree("running", "sitting") && agree("walking", "standing"));
  QCOMPARE(withStance("She runs, running far", "running", "sitting"), std::string("She sitting, sitting far"));
}

HSCAFFOLD_TEST(PoseLibraryTest)
#include "pose_library_test.moc"
