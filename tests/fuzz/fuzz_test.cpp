// A moment of what tests/fuzz/run does for as long as one likes: every reader gets its seeds, and what chance makes of
// them.
#include <QDir>
#include <QElapsedTimer>
#include <QTest>
#include <random>

#include "core/image/atomic_file.h"
#include "fuzz/targets.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

using Chance = std::mt19937;

std::size_t below(Chance& dice, std::size_t most) { return most == 0 ? 0 : dice() % most; }

/// Changed in a few places: bits, bytes, words that are odd, pieces of itself and of another.
Bytes mutated(Bytes bytes, const Bytes& other, Chance& dice) {
  static const std::vector<std::string> odd{
      "-1",   "1e999", "\"", "{",          "[[[[",    "null", "99999999999999999999",
      "1e-9", "\xff",  "\\", "4294967295", "-0.0001", "true", "\\u0000"};
  for (std::size_t changes = 1 + below(dice, 6); changes > 0 && !bytes.empty(); --changes) {
    const auto at = static_cast<std::ptrdiff_t>(below(dice, bytes.size()));
    const auto here = bytes.begin() + at;
    const auto length = static_cast<std::ptrdiff_t>(
        1 + below(dice, std::min<std::size_t>(40, bytes.size() - static_cast<std::size_t>(at))));
    switch (below(dice, 7)) {
      case 0:
        *here ^= static_cast<std::byte>(1u << below(dice, 8));
        break;
      case 1:
        *here = static_cast<std::byte>(below(dice, 256));
        break;
      case 2:
        bytes.erase(here, here + length);
        break;
      case 3: {
        const auto word = bytesOf(odd[below(dice, odd.size())]);
        bytes.insert(here, word.begin(), word.end());
        break;
      }
      case 4: {
        const Bytes piece(here, here + length);
        bytes.insert(bytes.begin() + static_cast<std::ptrdiff_t>(below(dice, bytes.size())), piece.begin(),
                     piece.end());
        break;
      }
      case 5:
        if (!other.empty()) {
          const auto from = below(dice, other.size());
          const auto begin = other.begin() + static_cast<std::ptrdiff_t>(from);
          bytes.insert(here, begin,
                       begin + static_cast<std::ptrdiff_t>(std::min<std::size_t>(60, other.size() - from)));
        }
        break;
      default:
        if (below(dice, 4) == 0) bytes.resize(static_cast<std::size_t>(at));
    }
  }
  return bytes;
}

}  // namespace

class FuzzTest : public QObject {
  Q_OBJECT
 private slots:
  void readersAnswerWithProblemsOnly_data();
  void readersAnswerWithProblemsOnly();
};

void FuzzTest::readersAnswerWithProblemsOnly_data() {
  QTest::addColumn<int>("number");
  for (std::size_t i = 0; i < fuzz::targets().size(); ++i)
    QTest::addRow("%s", fuzz::targets()[i].name.c_str()) << static_cast<int>(i);
}

void FuzzTest::readersAnswerWithProblemsOnly() {
  QFETCH(int, number);
  const fuzz::Target& target = fuzz::targets()[static_cast<std::size_t>(number)];
  std::vector<Bytes> seeds;
  const QDir folder(QString(HSCAFFOLD_SOURCE "/tests/fuzz/seeds/") + target.name.c_str());
  for (const QString& name : folder.entryList(QDir::Files, QDir::Name))
    seeds.push_back(readWholeFile(folder.filePath(name).toStdString()));
  QVERIFY2(!seeds.empty(), "no seeds");
  for (const Bytes& seed : seeds) fuzz::run(target, seed);
  constexpr qint64 moment = 250;  // milliseconds
  Chance dice(static_cast<unsigned>(number) + 1);
  QElapsedTimer timer;
  timer.start();
  int count = 0;
  for (; timer.elapsed() < moment; ++count) {
    const Bytes input = mutated(seeds[below(dice, seeds.size())], seeds[below(dice, seeds.size())], dice);
    try {
      fuzz::run(target, input);
    } catch (const std::exception& error) {
      QFAIL(qPrintable(QString("%1; the input was (base64) %2")
                           .arg(error.what(), QString(QByteArray(reinterpret_cast<const char*>(input.data()),
                                                                 static_cast<qsizetype>(input.size()))
                                                          .toBase64()))));
    }
  }
  qInfo("%d inputs", count);
}

HSCAFFOLD_TEST(FuzzTest)
#include "fuzz_test.moc"
