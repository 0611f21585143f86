#include "app/widgets/linked_view.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/switch_button.h"
#include "app/widgets/threshold_histogram.h"

#include <QLineEdit>
#include <QSignalSpy>

#include "app/document/study_edits.h"
#include "app/images.h"
#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/window_fixture.h"
#include "core/image/colour.h"

using namespace hscaffold;
using namespace hscaffold::app;

class WidgetsTest : public QObject {
  Q_OBJECT
 private slots:
  void fittingUsesTheSmallerTable();
  void zoomHoldsThePointUnderThePointer();
  void zoomIsBounded();
  void scrubFieldKeepsItsRange();
  void scrubFieldIgnoresTheWheelUnlessFocused();
  void switchesByKeyAndMouse();
  void histogramThresholdsNeverCross();
  void tintsAndMissesShowLines();
  void textIsReadableInBothThemes();
  void iconsAreDrawn();
};

void WidgetsTest::fittingUsesTheSmallerTable() {
  LinkedView view;
  view.setFrame({600, 400});
  const int a = 0, b = 0;
  view.setTable(&a, QSizeF(500, 500));
  view.setTable(&b, QSizeF(500, 300));
  QCOMPARE(view.scale({500, 500}), view.scale({500, 300}));
  QCOMPARE(view.origin({500, 500}), view.origin({500, 300}));
  view.setTable(&b, {});
  QVERIFY(view.origin({500, 500}).y() > 80);
}

void WidgetsTest::zoomHoldsThePointUnderThePointer() {
  LinkedView view;
  const QSizeF table(500, 400);
  for (const double factor : {1.3, 2.0, 0.4, 5.0}) {
    const QPointF at(123, 321), held = view.toFrame(at, table);
    view.zoom(factor, at, table);
    QVERIFY(std::hypot((view.toFrame(at, table) - held).x(), (view.toFrame(at, table) - held).y()) < 1e-6);
    QVERIFY(std::hypot((view.toTable(held, table) - at).x(), (view.toTable(held, table) - at).y()) < 1e-6);
  }
  view.setActualSize(table);
  QVERIFY(std::abs(view.scale(table) - 1) < 1e-9);
}

void WidgetsTest::zoomIsBounded() {
  LinkedView view;
  for (int i = 0; i < 100; ++i) view.zoom(3, {10, 10}, {400, 300});
  QVERIFY(view.scale({400, 300}) <= 32);
  for (int i = 0; i < 100; ++i) view.zoom(0.2, {10, 10}, {400, 300});
  QVERIFY(view.scale({400, 300}) >= 0.01);
  const QSignalSpy moved(&view, &LinkedView::moved);
  view.setFrame({123, 45});
  QVERIFY(view.fitting());
  QCOMPARE(moved.size(), 1);
}

void WidgetsTest::scrubFieldKeepsItsRange() {
  ScrubField field;
  field.setUp(0, 2, 0.01, 2, 1);
  field.show();
  const QSignalSpy edited(&field, &ScrubField::edited);
  field.showValue(1.5);
  QCOMPARE(edited.size(), 0);
  auto* line = field.findChild<QLineEdit*>();
  const QPoint middle = line->rect().center();
  QTest::mousePress(line, Qt::LeftButton, {}, middle);
  for (const int to : {200, 600, 2000}) {
    QMouseEvent move(QEvent::MouseMove, middle + QPoint(to, 0), line->mapToGlobal(middle + QPoint(to, 0)), Qt::NoButton,
                     Qt::LeftButton, {});
    QApplication::sendEvent(line, &move);
  }
  QTest::mouseRelease(line, Qt::LeftButton, {}, middle);
  QCOMPARE(field.value(), 2.0);
  line->setFocus();
  line->selectAll();
  QTest::keyClicks(line, "nonsense");
  QTest::keyClick(line, Qt::Key_Return);
  QCOMPARE(field.value(), 2.0);
  QTest::keyClick(&field, Qt::Key_Down);
  QCOMPARE(field.value(), 1.99);
  for (const char* typed : {"0,75", "0.75"}) {
    line->selectAll();
    QTest::keyClicks(line, typed);
    QTest::keyClick(line, Qt::Key_Return);
    QCOMPARE(field.value(), 0.75);
    field.showValue(1);
  }
}

void WidgetsTest::scrubFieldIgnoresTheWheelUnlessFocused() {
  QWidget window;
  ScrubField field(&window);
  field.setUp(0, 10, 1, 0, 5);
  field.showValue(5);
  window.show();
  field.clearFocus();
  const QPointF at(field.rect().center());
  QWheelEvent wheel(at, field.mapToGlobal(at), {}, {0, 120}, {}, {}, Qt::NoScrollPhase, false);
  QApplication::sendEvent(&field, &wheel);
  QCOMPARE(field.value(), 5.0);
}

void WidgetsTest::switchesByKeyAndMouse() {
  SwitchButton button(Qt::red);
  button.show();
  const QSignalSpy clicked(&button, &SwitchButton::clicked);
  QTest::mouseClick(&button, Qt::LeftButton);
  QVERIFY(button.isChecked());
  QTest::keyClick(&button, Qt::Key_Space);
  QVERIFY(!button.isChecked());
  QCOMPARE(clicked.size(), 2);
  const QImage off = button.grab().toImage();
  button.setChecked(true);
  QVERIFY(button.grab().toImage() != off);
}

void WidgetsTest::histogramThresholdsNeverCross() {
  ThresholdHistogram histogram(Qt::yellow);
  histogram.resize(220, 52);
  histogram.QWidget::show();
  ThresholdView view;
  view.histogram.assign(2048, 5);
  view.low = 0.05;
  view.high = 0.1;
  histogram.show(view);
  double low = 0, high = 0;
  connect(&histogram, &ThresholdHistogram::dragged, this, [&](double l, double h) {
    low = l;
    high = h;
    QVERIFY(l <= h);
  });
  const QSignalSpy released(&histogram, &ThresholdHistogram::released);
  const QPoint from = histogram.handleAt(false);
  QTest::mousePress(&histogram, Qt::LeftButton, {}, from);
  QTest::mouseMove(&histogram, {210, from.y()});
  QMouseEvent move(QEvent::MouseMove, QPointF(210, from.y()), histogram.mapToGlobal(QPointF(210, from.y())),
                   Qt::NoButton, Qt::LeftButton, {});
  QApplication::sendEvent(&histogram, &move);
  QTest::mouseRelease(&histogram, Qt::LeftButton, {}, {210, from.y()});
  QVERIFY(low > 0.3 && high >= low);
  QCOMPARE(released.size(), 1);
}

void WidgetsTest::tintsAndMissesShowLines() {
  Map map(64, 48);
  for (int x = 10; x < 50; ++x) map(x, 20) = 65535;
  const QImage tint = tintedImage(map, QColor(200, 100, 50));
  QCOMPARE(qAlpha(tint.pixel(30, 20)), 255);
  QVERIFY(qAlpha(tint.pixel(30, 21)) > 60 && qAlpha(tint.pixel(30, 24)) == 0);
  QCOMPARE(qGray(greyImage(map).pixel(30, 20)), 255);
}

void WidgetsTest::textIsReadableInBothThemes() {
  const auto light = [](const QColor& c) {
    return static_cast<double>(luminance({srgbToLinear(c.redF()), srgbToLinear(c.greenF()), srgbToLinear(c.blueF())}));
  };
  const auto contrast = [&](const QColor& a, const QColor& b) {
    return (std::max(light(a), light(b)) + 0.05) / (std::min(light(a), light(b)) + 0.05);
  };
  for (const ThemeName name : {ThemeName::day, ThemeName::dusk}) {
    applyTheme(name);
    const Theme& t = theme();
    for (const QColor& text : {t.text, t.softText, t.good, t.doubt, t.bad})
      for (const QColor& under : {t.panel, t.ground})
        QVERIFY2(contrast(text, under) >= 4.5,
                 qPrintable(text.name() + " on " + under.name() + QString(" %1").arg(contrast(text, under))));
    QVERIFY(contrast(t.onAccent, t.accent) >= 4.5);
    QCOMPARE(t.table.saturation(), 0);
  }
}

void WidgetsTest::iconsAreDrawn() {
  for (const char* name :
       {"plus", "dice", "lock", "unlock", "undo", "redo", "turn", "flip-across", "flip-down", "menu"}) {
    const QImage image = icon(name).pixmap(16, 16).toImage();
    int drawn = 0;
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) drawn += qAlpha(image.pixel(x, y)) > 100;
    QVERIFY2(drawn > 8, name);
  }
}

HSCAFFOLD_TEST(WidgetsTest)
#include "widgets_test.moc"
