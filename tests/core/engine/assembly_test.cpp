// Where the prompt's own subject stands, beside what guides have taken.
#include <QTest>
#include <cmath>

#include "core/engine/guided_jobs.h"
#include "core/engine/standin/assembly.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::standin;
using fixtures::layout;

namespace {

Composition lighthouse() { return compose(wishesFrom("a lighthouse, gouache", "", 6.5), 3, layout); }

/// A guide that has taken nothing yet.
Wanted nothing() {
  Wanted out;
  out.decided.emplace();
  out.decided->fields = Fields::ofSize(layout);
  out.decided->where = Image<float>(layout);
  out.decided->lines = Image<float>(layout);
  return out;
}

Composition beside(const Wanted& wanted, double weight) {
  Guide guide;
  guide.weight = weight;
  return assembled(lighthouse(), std::span(&wanted, 1), std::vector<LoadCurve>{LoadCurve(guide, 6.5, 20)});
}

double subjectAt(const Composition& c, int x, int y) {
  return static_cast<double>(c.fields.part(static_cast<std::size_t>(Part::subject))(x, y));
}

/// How much of it there is.
double subjectIn(const Composition& c) {
  double sum = 0;
  for (int y = 0; y < layout.height; ++y)
    for (int x = 0; x < layout.width; ++x) sum += subjectAt(c, x, y);
  return sum;
}

/// Where it stands, in layout pixels from the left.
double middleOf(const Composition& c) {
  double sum = 0;
  for (int y = 0; y < layout.height; ++y)
    for (int x = 0; x < layout.width; ++x) sum += x * subjectAt(c, x, y);
  return sum / subjectIn(c);
}

}  // namespace

class AssemblyTest : public QObject {
  Q_OBJECT
 private slots:
  void subjectsFindRoomOrStayAway();
  void subjectsMoveToWhereTheyCanStay();
};

void AssemblyTest::subjectsFindRoomOrStayAway() {
  const auto whole = lighthouse();
  const auto free = withSubject(whole, whole.subject);
  QVERIFY(subjectIn(free) > 300);
  // Everything is taken: no place is left for it.
  auto all = nothing();
  all.decided->where = Image<float>(layout.width, layout.height, 1.0f);
  QVERIFY(subjectIn(beside(all, 1)) < 1);
  // What is taken is elsewhere: it stands where it would.
  auto corner = nothing();
  corner.decided->where(2, 2) = 1;
  QVERIFY(std::abs(subjectIn(beside(corner, 1)) - subjectIn(free)) < 0.4 * subjectIn(free));
}

void AssemblyTest::subjectsMoveToWhereTheyCanStay() {
  const auto whole = lighthouse();
  const double stood = middleOf(withSubject(whole, whole.subject));
  const auto paint = [](Image<float>& field, double middle, int half) {
    for (int y = 0; y < layout.height; ++y)
      for (int x = std::max(0, static_cast<int>(middle) - half);
           x < std::min(layout.width, static_cast<int>(middle) + half); ++x)
        field(x, y) = 1;
  };
  // A narrow strip is taken where it stood: it steps aside.
  auto strip = nothing();
  paint(strip.decided->where, stood, 6);
  const double aside = middleOf(beside(strip, 0.2));
  QVERIFY(std::abs(aside - stood) > 6);
  // Where it would step to, a stronger load will draw something: it goes past that.
  strip.decided->undrawn = Image<float>(layout);
  paint(strip.decided->undrawn, aside, 25);
  const double past = middleOf(beside(strip, 0.2));
  QVERIFY2(std::abs(past - aside) > 25, qPrintable(QString("%1 %2 %3").arg(stood).arg(aside).arg(past)));
  // Lines that are not drawn yet do not move it, nor drive it away when they are everywhere.
  auto later = nothing();
  later.decided->undrawn = Image<float>(layout.width, layout.height, 1.0f);
  QVERIFY(std::abs(middleOf(beside(later, 0.2)) - stood) < 1);
  paint(later.decided->where, stood, 6);
  QVERIFY(std::abs(middleOf(beside(later, 0.2)) - aside) < 1);
}

HSCAFFOLD_TEST(AssemblyTest)
#include "assembly_test.moc"
