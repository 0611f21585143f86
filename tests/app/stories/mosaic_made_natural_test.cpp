// A blocky mosaic of the tea house turned into a natural scene: edges at weight 1 copy the blocks; a test strip over
// weight and range end shows where they go, and one of its cells is adopted. Once by mouse, once by keyboard.
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTableWidget>

#include "app/sheet/sheet_view.h"
#include "app/sheet/strip_panel.h"
#include "app/window_fixture.h"
#include "core/image/colour.h"
#include "core/image/png.h"

using namespace hscaffold;
using namespace hscaffold::app;

class MosaicMadeNaturalTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void byMouse();
  void byKeyboard();

 protected:
  void prepare() override {
    // Blocks of 16 pixels, as large as the frame.
    const auto& scene = fixtures::scene(1);
    Image<Rgb> mosaic(scene.size());
    for (int y = 0; y < mosaic.height(); ++y)
      for (int x = 0; x < mosaic.width(); ++x) {
        Rgb sum{};
        const int left = x / block * block, top = y / block * block;
        for (int dy = 0; dy < block; ++dy)
          for (int dx = 0; dx < block; ++dx) sum = sum + scene.view().clamped(left + dx, top + dy);
        mosaic(x, y) = sum * (1.0f / (block * block));
      }
    writeFileAtomically(fixtures::in(*folder_, "mosaic.png"), encodePng(toSrgb8(mosaic.view()).view()));
    dropFiles({path("mosaic.png")});
    settle();
    document().change("Brief", [](StudyState& s) {
      s.guides[0].weight = 1;
      s.brief.prompt = "a tea house on stilts over a tidal flat, evening, gouache";
    });
    settle();
  }

 private:
  static constexpr int block = 16;
  [[nodiscard]] SheetView& sheet() const { return *window_->findChild<SheetView*>(); }
  [[nodiscard]] StripPanel& panel() const { return part<StripPanel>("strip panel"); }

  /// How much stronger light changes across borders of blocks than between them; about 1 where there are none.
  static double blocky(const QImage& picture, const QImage& mosaic) {
    double on = 0, off = 0;
    int onCount = 0, offCount = 0;
    for (int y = 1; y + 1 < picture.height(); ++y)
      for (int x = 2; x + 2 < picture.width(); ++x) {
        // Only where the mosaic itself has a clear border, and as far from any.
        const bool border = x % block == 0;
        const int step = std::abs(qGray(picture.pixel(x + 1, y)) - qGray(picture.pixel(x - 2, y)));
        if (border && std::abs(qGray(mosaic.pixel(x, y)) - qGray(mosaic.pixel(x - 1, y))) > 24) {
          on += step;
          ++onCount;
        } else if (x % block == block / 2) {
          off += step;
          ++offCount;
        }
      }
    return (on / std::max(1, onCount)) / std::max(0.5, off / std::max(1, offCount));
  }

  void checkStripAndAdopt(const std::function<void(int row, int column)>& chooseCell,
                          const std::function<void()>& adopt) {
    const SheetInfo& strip = desk().proofs.sheets().back();
    QCOMPARE(strip.plan.axes.size(), std::size_t{2});
    auto& model = sheet().model();
    const int right = model.columnCount() - 1, bottom = model.rowCount() - 1;
    const QImage mosaic(path("mosaic.png"));
    const auto blocksAt = [&](int row, int column) {
      const std::int64_t number = model.numberAt(model.index(row, column));
      return blocky(desk().proofs.image(number).scaled(mosaic.size(), Qt::IgnoreAspectRatio, Qt::SmoothTransformation),
                    mosaic);
    };
    const auto holdAt = [&](int row, int column) {
      return model.data(model.index(row, column), SheetModel::holdRole).toDouble();
    };
    // Full weight all the way copies the blocks, and is said to hold; both go by weight and by range.
    const double copied = blocksAt(bottom, right);
    QVERIFY2(copied > 2, qPrintable(QString::number(copied)));
    QVERIFY(holdAt(bottom, right) > 90);
    QVERIFY2(blocksAt(bottom, 0) < 0.7 * copied, qPrintable(QString("%1 of %2").arg(blocksAt(bottom, 0)).arg(copied)));
    QVERIFY2(blocksAt(0, right) < 0.7 * copied, qPrintable(QString("%1 of %2").arg(blocksAt(0, right)).arg(copied)));
    QVERIFY(holdAt(0, right) < 60 && holdAt(bottom, 0) < 60);
    // The strip is read, with what it rests on.
    const SheetReading& reading = sheet().reading();
    QVERIFY(reading.advised.has_value() && !reading.evidence.empty());
    QVERIFY(part<QLabel>("sentence").text().contains("weight"));
    // Between the two, composition without blocks: that one is adopted.
    chooseCell(1, 1);
    const double weight = state().guides[0].weight;
    adopt();
    QVERIFY(state().guides[0].weight < weight);
    QVERIFY(state().guides[0].range.to < 100);
    undo();
    QCOMPARE(state().guides[0].weight, weight);
  }
};

void MosaicMadeNaturalTest::byMouse() {
  // From the handle of the bar: Alt and a drag down spans the weights.
  auto& chart = bench().board().chart();
  const QPoint top = chart.gripAt(state().guides[0].id, BarGrip::weight).toPoint();
  dragOn(chart, top, top + QPoint(0, 12), Qt::AltModifier);
  part<QLineEdit>("across values", &panel()).setText("0.3, 0.65, 1");
  auto& down = part<QComboBox>("down", &panel());
  down.setCurrentIndex(down.findText(QString::fromStdString(state().guides[0].name) + ", range end"));
  part<QLineEdit>("down values", &panel()).setText("25, 60, 100");
  QTest::mouseClick(&part<QPushButton>("pull sheet now", &panel()), Qt::LeftButton);
  settle();
  activate();
  auto& grid = sheet().grid();
  checkStripAndAdopt(
      [&](int row, int column) {
        QTest::mouseClick(grid.viewport(), Qt::LeftButton, {},
                          grid.visualRect(sheet().model().index(row, column)).center());
      },
      [&] { click("adopt from sheet"); });
}

void MosaicMadeNaturalTest::byKeyboard() {
  auto& chart = bench().board().chart();
  chart.setFocus();
  QTest::keyClick(&chart, Qt::Key_T);
  typeInto(part<QLineEdit>("across values", &panel()), "25, 60, 100");  // Return pulls it: one axis first
  settle();
  activate();
  QCOMPARE(desk().proofs.sheets().back().plan.axes[0].setting, Setting::end);
  pressInWindow(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  auto& across = part<QComboBox>("across", &panel());
  across.setFocus();
  QTest::keyClick(&across, Qt::Key_Down);
  QVERIFY(across.currentText().endsWith("weight"));
  auto& down = part<QComboBox>("down", &panel());
  down.setFocus();
  QTest::keyClick(&down, Qt::Key_Down);
  QTest::keyClick(&down, Qt::Key_Down);
  QVERIFY(down.currentText().endsWith("range end"));
  part<QLineEdit>("across values", &panel()).setText("0.3, 0.65, 1");
  typeInto(part<QLineEdit>("down values", &panel()), "25, 60, 100");
  settle();
  activate();
  QVERIFY(sheet().isVisible());
  auto& grid = sheet().grid();
  grid.setFocus();
  checkStripAndAdopt(
      [&](int row, int column) {
        QTest::keyClick(&grid, Qt::Key_Home, Qt::ControlModifier);
        for (int i = 0; i < row; ++i) QTest::keyClick(&grid, Qt::Key_Down);
        for (int i = 0; i < column; ++i) QTest::keyClick(&grid, Qt::Key_Right);
        QCOMPARE(sheet().details().proofs().front(), sheet().model().numberAt(sheet().model().index(row, column)));
      },
      [&] { QTest::keyClick(&grid, Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier); });
}

HSCAFFOLD_TEST(MosaicMadeNaturalTest)
#include "mosaic_made_natural_test.moc"
