#include "files/svg_path.h"

#include <charconv>
#include <cmath>
#include <numbers>
#include <optional>

namespace hscaffold {
namespace {

constexpr double largest = 1e7;  ///< coordinates beyond this are nonsense

/// Walks over the characters of path data.
class Cursor {
 public:
  explicit Cursor(std::string_view text) : text_(text) {}

  void skip() {
    while (at_ < text_.size() &&
           (text_[at_] == ' ' || text_[at_] == ',' || text_[at_] == '\n' || text_[at_] == '\t' || text_[at_] == '\r'))
      ++at_;
  }
  [[nodiscard]] bool done() {
    skip();
    return at_ >= text_.size();
  }
  std::optional<char> letter() {
    skip();
    if (at_ >= text_.size() || std::string_view("MmLlHhVvCcSsQqTtAaZz").find(text_[at_]) == std::string_view::npos)
      return {};
    return text_[at_++];
  }
  std::optional<double> number() {
    skip();
    if (at_ < text_.size() && text_[at_] == '+') ++at_;
    double value = 0;
    const auto [end, error] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
    if (error != std::errc() || !std::isfinite(value) || std::abs(value) > largest) return {};
    at_ = static_cast<std::size_t>(end - text_.data());
    return value;
  }
  /// Flags of arcs may stand without anything between them.
  std::optional<bool> flag() {
    skip();
    if (at_ >= text_.size() || (text_[at_] != '0' && text_[at_] != '1')) return {};
    return text_[at_++] == '1';
  }

 private:
  std::string_view text_;
  std::size_t at_ = 0;
};

void addQuadratic(SvgRun& run, Point control, Point to) {
  const Point from = run.points.back();
  run.points.insert(run.points.end(), {from + (control - from) * (2.0 / 3), to + (control - to) * (2.0 / 3), to});
}

/// SVG 1.1, appendix F.6: from end points to a centre, then a curve for each quarter.
void addArc(SvgRun& run, double rx, double ry, double degrees, bool large, bool sweep, Point to) {
  const Point from = run.points.back();
  rx = std::abs(rx);
  ry = std::abs(ry);
  if (rx < 1e-9 || ry < 1e-9) return addLine(run, to);
  if (distanceBetween(from, to) < 1e-12) return;
  const double angle = degrees * std::numbers::pi / 180, c = std::cos(angle), s = std::sin(angle);
  const Point half = (from - to) * 0.5;
  const double x = c * half.x + s * half.y, y = -s * half.x + c * half.y;
  const double stretch = x * x / (rx * rx) + y * y / (ry * ry);
  if (stretch > 1) {
    rx *= std::sqrt(stretch);
    ry *= std::sqrt(stretch);
  }
  const double above = rx * rx * ry * ry - rx * rx * y * y - ry * ry * x * x;
  const double root = std::sqrt(std::max(0.0, above / (rx * rx * y * y + ry * ry * x * x))) * (large == sweep ? -1 : 1);
  const double cx = root * rx * y / ry, cy = -root * ry * x / rx;
  const Point centre{c * cx - s * cy + (from.x + to.x) / 2, s * cx + c * cy + (from.y + to.y) / 2};
  const double start = std::atan2((y - cy) / ry, (x - cx) / rx);
  double turn = std::atan2((-y - cy) / ry, (-x - cx) / rx) - start;
  if (sweep && turn < 0) turn += 2 * std::numbers::pi;
  if (!sweep && turn > 0) turn -= 2 * std::numbers::pi;
  const int pieces = std::max(1, static_cast<int>(std::ceil(std::abs(turn) / (std::numbers::pi / 2) - 1e-9)));
  const double step = turn / pieces, handle = 4.0 / 3 * std::tan(step / 4);
  const auto at = [&](double u, double v) {
    return Point{centre.x + c * rx * u - s * ry * v, centre.y + s * rx * u + c * ry * v};
  };
  for (int i = 0; i < pieces; ++i) {
    const double a = start + i * step, b = a + step;
    run.points.push_back(at(std::cos(a) - handle * std::sin(a), std::sin(a) + handle * std::cos(a)));
    run.points.push_back(at(std::cos(b) + handle * std::sin(b), std::sin(b) - handle * std::cos(b)));
    run.points.push_back(i + 1 == pieces ? to : at(std::cos(b), std::sin(b)));
  }
}

class PathReader {
 public:
  PathReader(std::string_view d, std::size_t most) : cursor_(d), most_(most) {}

  std::vector<SvgRun> runs() {
    char command = 0;
    while (!cursor_.done() && count_ < most_) {
      if (const auto letter = cursor_.letter())
        command = *letter;
      else if (command == 0 || command == 'z' || command == 'Z')
        break;
      if (!step(command)) break;
      // Further pairs after a move are lines.
      if (command == 'M') command = 'L';
      if (command == 'm') command = 'l';
    }
    finish();
    return std::move(out_);
  }

 private:
  std::optional<Point> pair(bool relative) {
    const auto x = cursor_.number();
    const auto y = x ? cursor_.number() : std::nullopt;
    if (!y) return {};
    ++count_;
    return relative ? here() + Point{*x, *y} : Point{*x, *y};
  }
  [[nodiscard]] Point here() const { return run_.points.empty() ? start_ : run_.points.back(); }
  void finish() {
    if (run_.points.size() > 1) out_.push_back(std::move(run_));
    run_ = {};
  }
  void begin(Point at) {
    finish();
    start_ = at;
    run_.points.push_back(at);
  }
  void open() {
    if (run_.points.empty()) run_.points.push_back(start_);
  }

  /// One command with one set of its numbers.
  bool step(char command) {
    const bool relative = command >= 'a';
    const char upper = relative ? static_cast<char>(command - 'a' + 'A') : command;
    const Point before = here();
    std::optional<Point> handle;
    bool good = true;
    switch (upper) {
      case 'M': {
        const auto to = pair(relative);
        if (!to) return false;
        begin(*to);
        break;
      }
      case 'Z':
        if (!run_.points.empty()) {
          if (distanceBetween(here(), start_) > 1e-9) addLine(run_, start_);
          run_.closed = true;
          finish();
        }
        break;
      case 'L': {
        const auto to = pair(relative);
        if (!to) return false;
        open();
        addLine(run_, *to);
        break;
      }
      case 'H':
      case 'V': {
        const auto value = cursor_.number();
        if (!value) return false;
        ++count_;
        open();
        const double base = relative ? (upper == 'H' ? before.x : before.y) : 0;
        addLine(run_, upper == 'H' ? Point{base + *value, before.y} : Point{before.x, base + *value});
        break;
      }
      case 'C':
      case 'S': {
        const auto first = upper == 'C' ? pair(relative) : std::optional(smoothHandle('C'));
        const auto second = first ? pair(relative) : std::nullopt;
        const auto to = second ? pair(relative) : std::nullopt;
        if (!to) return false;
        open();
        run_.points.insert(run_.points.end(), {*first, *second, *to});
        handle = second;
        break;
      }
      case 'Q':
      case 'T': {
        const auto control = upper == 'Q' ? pair(relative) : std::optional(smoothHandle('Q'));
        const auto to = control ? pair(relative) : std::nullopt;
        if (!to) return false;
        open();
        addQuadratic(run_, *control, *to);
        handle = control;
        break;
      }
      default:
        good = arc(relative);
    }
    last_ = handle;
    lastKind_ = upper == 'S' ? 'C' : upper == 'T' ? 'Q' : upper;
    return good;
  }

  bool arc(bool relative) {
    const auto rx = cursor_.number();
    const auto ry = rx ? cursor_.number() : std::nullopt;
    const auto angle = ry ? cursor_.number() : std::nullopt;
    const auto large = angle ? cursor_.flag() : std::nullopt;
    const auto sweep = large ? cursor_.flag() : std::nullopt;
    const auto to = sweep ? pair(relative) : std::nullopt;
    if (!to) return false;
    open();
    addArc(run_, *rx, *ry, *angle, *large, *sweep, *to);
    return true;
  }

  /// The last curve's handle, mirrored, if that was a curve of the same kind.
  [[nodiscard]] Point smoothHandle(char kind) const {
    return last_ && lastKind_ == kind ? here() * 2 - *last_ : here();
  }

  Cursor cursor_;
  std::size_t most_, count_ = 0;
  std::vector<SvgRun> out_;
  SvgRun run_;
  Point start_;
  std::optional<Point> last_;
  char lastKind_ = 0;
};

}  // namespace

void addLine(SvgRun& run, Point to) {
  const Point from = run.points.back();
  run.points.insert(run.points.end(), {from + (to - from) * (1.0 / 3), to - (to - from) * (1.0 / 3), to});
}

SvgRun ellipseRun(Point centre, double radiusX, double radiusY) {
  SvgRun run{{{centre.x + radiusX, centre.y}}, true};
  addArc(run, radiusX, radiusY, 0, false, true, {centre.x - radiusX, centre.y});
  addArc(run, radiusX, radiusY, 0, false, true, {centre.x + radiusX, centre.y});
  return run;
}

std::vector<SvgRun> runsOfPath(std::string_view d, std::size_t most) { return PathReader(d, most).runs(); }

std::vector<double> svgNumbers(std::string_view text) {
  Cursor cursor(text);
  std::vector<double> out;
  while (const auto value = cursor.number()) out.push_back(*value);
  return out;
}

}  // namespace hscaffold
