// Finals as files: what other programs find in them.
#include <QBuffer>
#include <QColorSpace>
#include <QImageReader>
#include <QProcess>
#include <QTest>
#include <map>

#include "core/study/study_file.h"
#include "files/final_files.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

struct Example {
  Final final;
  std::map<std::string, std::shared_ptr<const Bytes>> kept;
  std::string put(Bytes bytes) {
    const PictureFile file = pictureFile(std::move(bytes));
    kept[file.content] = file.bytes;
    return file.content;
  }
  [[nodiscard]] PictureBytes pictures() const {
    return [this](const std::string& content) { return kept.at(content); };
  }
  [[nodiscard]] Bytes file(const std::string& name, const FinalExport& form = {}) const {
    return finalFile(final, shownFrom(pictures()), pictures(), name, form);
  }
};

Image<Rgb8> plain(Size size, Rgb8 colour) { return Image<Rgb8>(size.width, size.height, colour); }

Example exampleFinal() {
  Example out;
  Recipe recipe;
  recipe.brief.prompt = "a pier";
  recipe.frame = {160, 96};
  auto base = plain(recipe.frame, {20, 90, 160});
  for (int y = 0; y < base.height(); ++y)
    for (int x = 0; x < base.width(); ++x) base(x, y).r = static_cast<std::uint8_t>(x);
  out.final.id = "f1";
  out.final.size = recipe.frame;
  out.final.picture = out.put(encodePng(base.view(), textsFor(recipe)));
  TouchUp touchUp;
  touchUp.id = "t2";
  touchUp.name = "Lantern";
  TouchShape shape;
  shape.lines = {{{0.25, 0.25}, {0.75, 0.25}, {0.75, 0.75}, {0.25, 0.75}}};
  touchUp.region = {shape};
  touchUp.feather = 6;
  recipe.brief.prompt = "a lantern";
  touchUp.tries = {{out.put(encodePng(plain({192, 128}, {220, 40, 30}).view(), textsFor(recipe))),
                    {32, 16, 128, 80},
                    3,
                    0.6,
                    5,
                    ""}};
  touchUp.used = 0;
  out.final.touchUps = {touchUp};
  return out;
}

QImage read(const Bytes& bytes, QByteArray* format = nullptr) {
  QByteArray data(reinterpret_cast<const char*>(bytes.data()), static_cast<qsizetype>(bytes.size()));
  QBuffer buffer(&data);
  buffer.open(QIODevice::ReadOnly);
  QImageReader reader(&buffer);
  reader.setAutoTransform(false);
  if (format != nullptr) *format = reader.format();
  return reader.read();
}

}  // namespace

class FinalFilesTest : public QObject {
  Q_OBJECT
 private slots:
  void everyFormatShowsTheFinal_data();
  void everyFormatShowsTheFinal();
  void sixteenBitsAreKept();
  void pngTellsWhatItIsMadeOf();
  void layersAreReadByAnotherProgram();
  void otherEndingsAreRefused();
};

void FinalFilesTest::everyFormatShowsTheFinal_data() {
  QTest::addColumn<QString>("name");
  QTest::addColumn<QByteArray>("format");
  QTest::addColumn<int>("off");
  QTest::addRow("png") << "x.png" << QByteArray("png") << 0;
  QTest::addRow("tiff") << "x.TIF" << QByteArray("tiff") << 0;
  QTest::addRow("jpeg") << "x.jpeg" << QByteArray("jpeg") << 12;
  QTest::addRow("webp") << "x.webp" << QByteArray("webp") << 24;
}

void FinalFilesTest::everyFormatShowsTheFinal() {
  QFETCH(QString, name);
  QFETCH(QByteArray, format);
  QFETCH(int, off);
  const Example made = exampleFinal();
  const auto wanted = composedFinal(made.final, shownFrom(made.pictures()));
  QByteArray is;
  const QImage image = read(made.file(name.toStdString()), &is);
  QCOMPARE(is, format);
  QCOMPARE(image.width(), wanted.width());
  int worst = 0;
  for (int y = 4; y < wanted.height(); y += 9)
    for (int x = 4; x < wanted.width(); x += 9) {
      const QColor c = image.pixelColor(x, y);
      worst = std::max({worst, std::abs(c.red() - wanted(x, y).r), std::abs(c.green() - wanted(x, y).g),
                        std::abs(c.blue() - wanted(x, y).b)});
    }
  QVERIFY2(worst <= off, qPrintable(QString::number(worst)));
  // What it is in is said.
  QVERIFY(image.colorSpace() == QColorSpace(QColorSpace::SRgb) || image.colorSpace().isValid());
}

void FinalFilesTest::sixteenBitsAreKept() {
  const Example made = exampleFinal();
  FinalExport form;
  form.sixteenBits = true;
  const auto wanted = composedInSixteen(made.final, shownFrom(made.pictures()));
  const auto png = decodePng(made.file("x.png", form)).picture;
  QVERIFY(png == wanted);
  // In the feather there are values that 8 bits do not have.
  int between = 0;
  for (int y = 0; y < png.height(); ++y)
    for (const Rgba16& c : png.line(y)) between += c.g % 257 != 0 ? 1 : 0;
  QVERIFY(between > 50);
  const QImage tiff = read(made.file("x.tif", form));
  QVERIFY(tiff.depth() == 64);
  const QRgba64 pixel = tiff.pixelColor(38, 40).rgba64();
  QVERIFY(std::abs(pixel.green() - wanted(38, 40).g) <= 1);
}

void FinalFilesTest::pngTellsWhatItIsMadeOf() {
  const Example made = exampleFinal();
  const auto texts = readPngTexts(made.file("x.png"));
  QCOMPARE(recipeFromTexts(texts).brief.prompt, std::string("a pier"));
  const QString about = QString::fromStdString(texts.at(finalKeyword));
  QVERIFY(about.contains("a lantern") && about.contains("Lantern"));
}

void FinalFilesTest::layersAreReadByAnotherProgram() {
  const Example made = exampleFinal();
  FinalExport form;
  form.maps.push_back({"map: Edges", plain({80, 48}, {255, 255, 255})});
  QTemporaryDir folder;
  const auto bytes = made.file("x.ora", form);
  writeFileAtomically(fixtures::in(folder, "x.ora"), bytes);
  // The type comes first and is not packed, as the format asks.
  QVERIFY(textOf(std::span(bytes).subspan(30, 8)) == "mimetype");
  QVERIFY(textOf(std::span(bytes).subspan(38, 16)) == "image/openraster");
  const QString script = R"(
import io, sys, zipfile, xml.etree.ElementTree as tree
from PIL import Image
z = zipfile.ZipFile(sys.argv[1])
assert z.testzip() is None
root = tree.fromstring(z.read('stack.xml'))
size = (int(root.get('w')), int(root.get('h')))
layers = root.find('stack').findall('layer')
flat = Image.new('RGBA', size)
for layer in reversed(layers):
    if layer.get('visibility') == 'hidden': continue
    picture = Image.open(io.BytesIO(z.read(layer.get('src')))).convert('RGBA')
    whole = Image.new('RGBA', size)
    whole.paste(picture, (int(layer.get('x')), int(layer.get('y'))))
    flat = Image.alpha_composite(flat, whole)
merged = Image.open(io.BytesIO(z.read('mergedimage.png'))).convert('RGB')
worst = 0
for box in ((0, 0, 20, 20), (60, 30, 100, 60)):
    a, b = flat.convert('RGB').crop(box), merged.crop(box)
    worst = max(worst, max(abs(p - q) for u, v in zip(a.getdata(), b.getdata()) for p, q in zip(u, v)))
thumb = Image.open(io.BytesIO(z.read('Thumbnails/thumbnail.png')))
print([l.get('name') for l in layers], [l.get('visibility') for l in layers], worst, max(thumb.size) <= 256)
)";
  QProcess python;
  python.start("/usr/bin/python3", {"-c", script, QString::fromStdString(fixtures::in(folder, "x.ora").string())});
  QVERIFY(python.waitForFinished(60'000));
  const QString out = python.readAllStandardOutput(), trouble = python.readAllStandardError();
  QVERIFY2(out.startsWith("['map: Edges', 'Lantern', 'final'] ['hidden', 'visible', 'visible']"),
           qPrintable(out + trouble));
  QVERIFY2(out.contains("] 0 True") || out.contains("] 1 True"), qPrintable(out));
}

void FinalFilesTest::otherEndingsAreRefused() {
  const Example made = exampleFinal();
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(made.file("x.bmp")); }).isEmpty());
  Example lost = exampleFinal();
  lost.final.picture.clear();
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(lost.file("x.png")); }).isEmpty());
}

HSCAFFOLD_TEST(FinalFilesTest)
#include "final_files_test.moc"
