// Sheets as they go out: a table that spreadsheets read, a page that needs nothing else, a labelled picture.
#include <QImage>
#include <QRgb>
#include <QTest>
#include <map>

#include "core/image/colour.h"
#include "core/image/png.h"
#include "files/sheet_files.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class SheetFilesTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase();
  void tablesHaveALineAProof();
  void pagesHoldEverything();
  void picturesShowEveryCell();
  void pagesForAPrinter();
  void proofsOfSeveralSheetsGoOutToo();
  void otherEndingsAreRefused();

 private:
  [[nodiscard]] SheetContent content() const {
    SheetContent out;
    out.title = "Strip 1: <a & b>";
    out.plan = &plan_;
    for (const ProofInfo& proof : proofs_) out.proofs.push_back(&proof);
    out.png = [this](std::int64_t number) { return pictures_.at(static_cast<std::size_t>(number) - 1); };
    return out;
  }
  SheetPlan plan_;
  std::vector<ProofInfo> proofs_;
  std::vector<Bytes> pictures_;
};

void SheetFilesTest::initTestCase() {
  RecipeGuide entry;
  entry.guide.id = "g1";
  entry.guide.kind = "edges";
  entry.guide.name = "Dune, \"red\"";
  plan_.base.guides.push_back(entry);
  plan_.base.frame = {96, 64};
  plan_.base.brief.prompt = "a dune, <evening>";
  plan_.axes = {axisOver(Setting::weight, "g1", 0.2, 1, 3), {Setting::guidance, "", {3, 9}, {}}};
  plan_.seeds = {5};
  for (int cell = 0; cell < plan_.cells(); ++cell) {
    ProofInfo proof;
    proof.number = cell + 1;
    proof.recipe = recipeOfCell(plan_, cell);
    proof.cell = cell;
    proof.sheet = 1;
    proof.holds["g1"] = 10.0 * cell;
    if (cell != 4) proof.shift = 50;
    proofs_.push_back(std::move(proof));
    // Each of a grey of its own, to be found again.
    Image<Rgb8> picture(96, 64);
    const auto grey = static_cast<std::uint8_t>(40 + 35 * cell);
    for (int y = 0; y < 64; ++y) std::fill_n(picture.row(y), 96, Rgb8{grey, grey, grey});
    pictures_.push_back(encodePng(picture.view()));
  }
  proofs_.erase(proofs_.begin() + 2);  // one is missing
}

void SheetFilesTest::tablesHaveALineAProof() {
  const QString table = QString::fromStdString(sheetTable(content()));
  const auto lines = table.split("\r\n", Qt::SkipEmptyParts);
  QCOMPARE(lines.size(), 6);
  QVERIFY(lines[0].contains("\"hold of Dune, \"\"red\"\"\""));
  QVERIFY(lines[1].startsWith("1,\"weight 0.20, guidance 3.0\",5,20,3,0.0,0.0,50.0,"));
  QVERIFY(lines[1].endsWith("\"a dune, <evening>\""));
  // What was not measured is empty, not nothing.
  QVERIFY(lines[4].contains(",40.0,40.0,,"));
}

void SheetFilesTest::pagesHoldEverything() {
  const QString page = QString::fromStdString(sheetPage(content()));
  QCOMPARE(page.count("<img "), 5);
  QCOMPARE(page.count("src=\"data:image/jpeg;base64,"), 5);
  QVERIFY(!page.contains("http"));
  QVERIFY(page.contains("Strip 1: &lt;a &amp; b&gt;") && page.contains("a dune, &lt;evening&gt;"));
  for (const char* label : {"0.20", "0.60", "1.00", "3.0", "9.0"}) QVERIFY2(page.contains(label), label);
}

void SheetFilesTest::picturesShowEveryCell() {
  const Bytes png = sheetPicture(content(), 96);
  const QImage image = QImage::fromData(reinterpret_cast<const uchar*>(png.data()), static_cast<int>(png.size()));
  QVERIFY(!image.isNull());
  std::map<int, int> counts;
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x) {
      const QRgb c = image.pixel(x, y);
      if (qRed(c) == qGreen(c) && qGreen(c) == qBlue(c)) ++counts[qRed(c)];
    }
  for (int cell = 0; cell < 6; ++cell)
    QVERIFY2((counts[40 + 35 * cell] > 5000) == (cell != 2), qPrintable(QString::number(cell)));
  // So many cells that no picture holds them.
  SheetContent large = content();
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(sheetPicture(large, 20'000)); }).isEmpty());
}

void SheetFilesTest::pagesForAPrinter() {
  const auto pagesIn = [](const Bytes& pdf) {
    const QByteArray bytes(reinterpret_cast<const char*>(pdf.data()), static_cast<qsizetype>(pdf.size()));
    return std::pair(bytes, bytes.count("/Type /Page\n") + bytes.count("/Type /Page "));
  };
  const auto [one, pages] = pagesIn(sheetFile(content(), "a.pdf"));
  QVERIFY(one.startsWith("%PDF-1.4") && one.contains("%%EOF"));
  QCOMPARE(pages, 1);
  QCOMPARE(one.count("/Subtype /Image"), 5);
  QVERIFY(one.contains("sRGB"));  // said in the file
  // Many seeds go on over other pages, each picture once.
  SheetPlan many;
  many.base = plan_.base;
  for (std::uint32_t seed = 1; seed <= 90; ++seed) many.seeds.push_back(seed);
  std::vector<ProofInfo> proofs;
  for (int cell = 0; cell < 90; ++cell) {
    ProofInfo proof = proofs_.front();
    proof.number = cell + 1;
    proof.cell = cell;
    proofs.push_back(proof);
  }
  SheetContent large = content();
  large.plan = &many;
}

void SheetFilesTest::proofsOfSeveralSheetsGoOutToo() {
  SheetContent loose = content();
  loose.plan = nullptr;
  QVERIFY(QString::fromStdString(sheetTable(loose)).contains("\"proof 1, seed 5\""));
  QCOMPARE(QString::fromStdString(sheetPage(loose)).count("<img "), 5);
  QVERIFY(!sheetPicture(loose).empty());
  loose.proofs.clear();
  QVERIFY(!sheetPicture(loose).empty());
}

void SheetFilesTest::otherEndingsAreRefused() {
  QVERIFY(!sheetFile(content(), "a.CSV").empty());
  QVERIFY(fixtures::problemOf([&] { static_cast<void>(sheetFile(content(), "a.xlsx")); }).contains("a.xlsx"));
}

HSCAFFOLD_TEST(SheetFilesTest)
#include "sheet_files_test.moc"
