#include <cmath>

#include "core/pattern/pattern.h"

namespace hscaffold::pattern {

const TuningFields& patternTuningFields() {
  constexpr double most = 8;
  static const TuningFields fields = [] {
    using Conditions = std::vector<TuningField::Condition>;
    constexpr int letters = 7, picture = 8;
    const TuningField::Condition isLaid{"what", {0, 1, 2, 3, 4, 5, 6, letters}}, isShape{"what", {1, 2, 3, 4, 5, 6}},
        isSized{"what", {1, 2, 3, 4, 5, 6, letters}}, leans{"laid", {0}};
    const Conditions code{{"what", {0}}}, codeLeaning{{"what", {0}}, leans}, shape{isShape}, sized{isSized, leans},
        fromPicture{{"what", {picture}}}, soft{{"what", {1, 2, 3, 4, 5, 6, letters, picture}}}, laid{isLaid},
        leaning{isLaid, leans};
    TuningField says{"says",
                     "Says",
                     "",
                     0,
                     1,
                     0,
                     1,
                     0,
                     {},
                     "What it says: a text or address for a code, where short ones scan better, or letters to be seen.",
                     {{"what", {0, letters}}}};
    says.text = {4000, "Hello"};
    TuningField corners{"corners",
                        "Corners",
                        "",
                        0,
                        1,
                        0,
                        1,
                        0,
                        {},
                        "Upper left, upper right, lower right, lower left, as it lies itself; percent of the frame's "
                        "width and height.",
                        {isLaid, {"laid", {1}}}};
    corners.text = {200, "20,20 80,20 80,80 20,80"};
    return TuningFields{
        {"what",
         "Pattern",
         "",
         0,
         most,
         0,
         1,
         0,
         {"code", "spiral", "rings", "checks", "waves", "rays", "rose", "letters", "picture"},
         "A code to be scanned, a ready shape, letters, or any picture in light and dark."},
        says,
        {"correction",
         "Correction",
         "",
         0,
         3,
         3,
         1,
         0,
         {"lowest", "low", "high", "highest"},
         "How much of the code may be lost: 7, 15, 25 or 30 %. A picture always loses some: highest is safest.",
         code},
        {"module",
         "Module",
         "px",
         0,
         128,
         0,
         8,
         0,
         {},
         "Side of a module; whole size steps stay sharp at every size. 0: as large as fits.",
         codeLeaning},
        {"quiet", "Quiet zone", "", 0, 8, 4, 1, 0, {}, "Modules left light round the code: readers want 4.", code},
        {"form",
         "Modules",
         "",
         0,
         2,
         0,
         1,
         0,
         {"squares", "rounded", "dots"},
         "How modules are drawn; all of them scan.",
         code},
        {"centre-free",
         "Centre free",
         "",
         0,
         15,
         0,
         1,
         0,
         {},
         "Modules a side of the middle that are left to the picture: they use up correction.",
         code},
        {"count",
         "Count",
         "",
         2,
         60,
         8,
         1,
         0,
         {},
         "Turns or rings across it, checks a side, waves, rays, points.",
         shape},
        {"extent", "Size", "%", 10, 250, 84, 1, 0, {}, "Of the frame's shorter side.", sized},
        {"blur",
         "Blur",
         "%",
         0,
         10,
         1,
         0.1,
         1,
         {},
         "Of the picture, before it is parted; of its longer side.",
         fromPicture},
        {"level",
         "Level",
         "%",
         -50,
         50,
         0,
         1,
         0,
         {},
         "Where light begins, from where the picture parts best.",
         fromPicture},
        {"softness", "Softness", "%", 0, 100, 20, 1, 0, {}, "How softly light and dark go over.", soft},
        {"swap", "Light and dark", "", 0, 1, 0, 1, 0, {"as they are", "swapped"}, "Light for dark.", soft},
        {"laid",
         "Laid",
         "",
         0,
         1,
         0,
         1,
         0,
         {"leaning", "corners"},
         "By its middle, turned and leant, or onto four corners.",
         laid},
        corners,
        {"x", "Across", "%", -50, 150, 50, 0.5, 1, {}, "Where its middle is, of the frame's width.", leaning},
        {"y", "Down", "%", -50, 150, 50, 0.5, 1, {}, "Where its middle is, of the frame's height.", leaning},
        {"turn", "Turn", "°", -180, 180, 0, 1, 0, {}, "Clockwise.", leaning},
        {"lean",
         "Lean",
         "°",
         -80,
         80,
         0,
         1,
         0,
         {},
         "How far its upper edge leans away, as something on the ground does.",
         leaning},
        {"slant", "Slant", "°", -80, 80, 0, 1, 0, {}, "The same to the side, as something on a wall does.", leaning}};
  }();
  return fields;
}

PatternTuning patternTuningFrom(const Tuning& tuning) {
  const auto& fields = patternTuningFields();
  const auto value = [&](const char* id) { return valueOf(fields, tuning, id); };
  const auto whole = [&](const char* id) { return static_cast<int>(std::lround(value(id))); };
  PatternTuning t;
  t.what = static_cast<What>(whole("what"));
  t.says = wordingOf(fields, tuning, "says");
  t.correction = static_cast<Correction>(whole("correction"));
  t.quiet = whole("quiet");
  t.module = whole("module");
  t.form = static_cast<ModuleForm>(whole("form"));
  t.centreFree = whole("centre-free");
  t.count = whole("count");
  t.softness = value("softness");
  t.level = value("level");
  t.blur = value("blur");
  t.swapped = whole("swap") != 0;
  t.x = value("x");
  t.y = value("y");
  t.size = value("extent");
  t.turn = value("turn");
  t.lean = value("lean");
  t.slant = value("slant");
  if (whole("laid") == 1) t.corners = wordingOf(fields, tuning, "corners");
  return t;
}

void layInMiddle(Tuning& tuning) {
  for (const char* id : {"x", "y", "turn", "lean", "slant", "laid", "corners"}) tuning.erase(id);
}

void layOnCorners(Tuning& tuning, const Quad& corners, Size frame) {
  tuning["laid"] = 1;
  tuning["corners"] = textOf(corners, frame);
}

}  // namespace hscaffold::pattern
