// Lists of the artist's own, shared by all windows: none writes over what another one added.
#include "app/document/own_list.h"

#include <QTest>

#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::app;

class OwnListTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void windowsDoNotOverwriteEachOther();
  void whatCannotBeReadIsNotWrittenOver();
  void changesThatThrowLeaveTheFile();

 private:
  static OwnList<std::string> list() {
    return {"words.txt", "Your own words",
            [](const std::string& text) {
              if (text.starts_with("broken")) throw badInput("Your own words are no list.");
              std::vector<std::string> words;
              for (std::size_t at = 0; at < text.size();) {
                const std::size_t end = std::min(text.find('\n', at), text.size());
                words.push_back(text.substr(at, end - at));
                at = end + 1;
              }
              return words;
            },
            [](const std::vector<std::string>& words) {
              std::string text;
              for (const std::string& word : words) text += word + "\n";
              return text;
            }};
  }
  static std::filesystem::path file() {
    return QDir(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation)).filePath("words.txt").toStdString();
  }
  using Words = std::vector<std::string>;
};

void OwnListTest::init() {
  QStandardPaths::setTestModeEnabled(true);
  std::filesystem::create_directories(file().parent_path());
  std::filesystem::remove(file());
}

void OwnListTest::windowsDoNotOverwriteEachOther() {
  auto first = list(), second = list();
  first.change([](Words& all) { all.push_back("kite"); });
  second.change([](Words& all) { all.push_back("dune"); });
  first.change([](Words& all) { all.push_back("tide"); });
  QCOMPARE(first.all(), (Words{"kite", "dune", "tide"}));
  QCOMPARE(list().all(), first.all());
}

void OwnListTest::whatCannotBeReadIsNotWrittenOver() {
  fixtures::writeFile(file(), "broken");
  auto all = list();
  QVERIFY(all.trouble().contains("no list"));
  QVERIFY(fixtures::problemOf([&] {
            all.change([](Words& words) { words.push_back("kite"); });
          }).contains("nothing was written"));
  QCOMPARE(fixtures::readFile(file()), std::string("broken"));
}

void OwnListTest::changesThatThrowLeaveTheFile() {
  auto all = list();
  all.change([](Words& words) { words.push_back("kite"); });
  QVERIFY(fixtures::problemOf([&] {
            all.change([](Words& words) {
              words.clear();
              throw badInput("Full.");
            });
          }).contains("Full"));
  QCOMPARE(all.all(), Words{"kite"});
  QCOMPARE(list().all(), Words{"kite"});
}

HSCAFFOLD_TEST(OwnListTest)
#include "own_list_test.moc"
