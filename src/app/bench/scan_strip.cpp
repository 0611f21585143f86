#include "app/bench/scan_strip.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/bench/scan_ways.h"
#include "app/proofs/job_sources.h"
#include "app/theme/theme.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/png.h"
#include "core/image/resample.h"
#include "core/job/prepare.h"
#include "core/pattern/pattern.h"
#include "core/retouch/painter.h"

namespace hscaffold::app {
namespace {

/// From here on it has no need of more.
constexpr double wantsMore = 45;

/// The first guide of a recipe that asks for a code.
const RecipeGuide* codeGuideOf(const Recipe& recipe) {
  for (const RecipeGuide& entry : recipe.guides)
    if (entry.guide.kind == "pattern" && pattern::patternTuningFrom(entry.guide.tuning).what == pattern::What::code)
      return &entry;
  return nullptr;
}

/// Misses as a region to act in: of frame size, a little larger than they are.
std::shared_ptr<const Map> regionOf(const Map& misses, Size frame) {
  if (misses.empty()) return nullptr;
  auto wide = resampled(widened(misses.view()).view(), frame, Resampling::area);
  const auto reach = 0.008f * static_cast<float>(std::max(frame.width, frame.height));
  wide = gaussianBlur(wide.view(), reach);
  Map out(frame);
  bool any = false;
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x) {
      constexpr float least = 0.12f;
      out(x, y) = wide(x, y) > least ? 65535 : 0;
      any = any || out(x, y) != 0;
    }
  return any ? std::make_shared<const Map>(std::move(out)) : nullptr;
}

}  // namespace

struct ScanStrip::Found {
  std::shared_ptr<const Scan> scan;  ///< null where the map has no code
  std::vector<QImage> looks;
  std::shared_ptr<const Map> wrong;
};

ScanStrip::ScanStrip(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  setObjectName("scan strip");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 5, 12, 5);
  column->setSpacing(4);
  auto* line = new QHBoxLayout;
  line->setSpacing(12);
  margin_ = new QLabel;
  margin_->setObjectName("scan margin");
  margin_->setFont(textFont(10, QFont::DemiBold));
  about_ = new QLabel;
  about_->setObjectName("about the scan");
  about_->setFont(textFont(9));
  about_->setProperty("role", "note");
  about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  line->addWidget(margin_);
  line->addWidget(about_, 1);
  more_ = new QToolButton;
  more_->setObjectName("more code");
  more_->setText("More code there");
  more_->setToolTip("Adds the same code once more, stronger, only where modules read wrongly");
  more_->setProperty("role", "link");
  more_->hide();
  connect(more_, &QToolButton::clicked, this, &ScanStrip::giveMore);
  line->addWidget(more_);
  column->addLayout(line);
  ways_ = new ScanWays;
  column->addWidget(ways_);
  connect(&desk_.proofs, &ProofShelf::changed, this, &ScanStrip::refresh);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking) refresh();
  });
  connect(&desk_.document, &StudyDocument::replaced, this, [this] {
    of_ = 0;
    refresh();
  });
  connect(&desk_.maps, &MapRoom::picturesChanged, this, &ScanStrip::refresh);
  refresh();
}

void ScanStrip::refresh() {
  const ProofInfo* info = desk_.proofs.current();
  const RecipeGuide* code = info != nullptr ? codeGuideOf(info->recipe) : nullptr;
  setVisible(code != nullptr);
  if (code == nullptr) {
    desk_.tasks.stop("scan");
    of_ = 0;
    known_.reset();
    return;
  }
  if (of_ == info->number) return;
  of_ = info->number;
  known_.reset();
  setOwnSheet(*margin_, QString("color: %1").arg(theme().softText.name()));
  margin_->setText("Does it scan?");
  about_->clear();
  ways_->set({}, {});
  wrong_.reset();
  more_->hide();
  code_ = code->guide.id;
  Recipe recipe = info->recipe;
  recipe.brief.start = {};
  recipe.guides = {*code};
  try {
    desk_.tasks.run(
        this, "scan", Priority::facts,
        [recipe, sources = jobSources(recipe, desk_.document, desk_.maps, desk_.proofs), read = desk_.proofs.reader(),
         number = of_](const StopToken& stop) {
          Found out;
          const auto pixels = decodePngRgb8(read(number));
          const auto made = jobFrom(recipe, sources, stop);
          const Map& map = made.job.inputs.at(0).map;
          const auto asked = knownCodeIn(map.view(), stop);
          if (!asked) return out;
          out.wrong = regionOf(patternHolding(map, ProofSeen(pixels.view()), stop).misses, map.size());
          out.scan = std::make_shared<const Scan>(scanned(pixels.view(), &*asked, stop));
          out.looks = ScanWays::looksOf(pixels.view(), stop);
          return out;
        },
        [this, number = of_](const Found& found) { show(number, found); });
  } catch (const Problem&) {
    of_ = 0;  // references are still being read: asked again once they are there
  }
}

void ScanStrip::giveMore() {
  const Guide* of = desk_.document.state().guide(code_);
  if (of == nullptr || !wrong_) {
    emit desk_.notice("The guide of this code is not in the study any more: adopt the proof's settings first.");
    return;
  }
  const GuidePlace place = desk_.document.placeOf(*of);
  if (wrong_->size() != place.frame) {
    emit desk_.notice("The frame is another than that of the proof: pull once more first.");
    return;
  }
  const std::string region =
      desk_.document.work().keep(painted(Layer{place.frame, place.placing, {}}, wrong_->view(), PaintMode::draw, {}));
  desk_.document.change("More code where it fails", [&](StudyState& s) {
    Guide more = *s.guide(code_);
    constexpr double by = 0.4;
    more.id = newId(s, "g");
    more.name = fittedText(more.name + ", more", 24);
    more.on = true;
    more.weight = std::min(limits::weight.most, more.weight + by);
    more.work.put(regionSlot, region);
    more.region = {};
    s.guides.push_back(std::move(more));
  });
}

void ScanStrip::show(std::int64_t proof, const Found& found) {
  if (proof != of_) return;
  known_ = found.scan;
  wrong_ = found.wrong;
  more_->setVisible(known_ && wrong_ && known_->margin < wantsMore);
  ways_->set(known_, found.looks);
  if (!known_) {
    margin_->setText("No code to be read in its map");
    return;
  }
  tellMargin(*known_, *margin_);
  const QString ways = QString("%1 of %2 ways").arg(known_->readings()).arg(known_->ways.size());
  QString about = ways, all = ways + " of looking";
  if (!known_->wrongAt.empty()) {
    const long used = std::min<long>(100, std::lround(100 * known_->used));
    // The button takes the room of the rest, which the tip has.
    if (!more_->isVisibleTo(this)) about += QString("; %1 % of the correction used").arg(used);
    all +=
        QString("; %1 % of the error correction is used up; %2 of %3 modules read wrongly, which Misses (Ctrl+2) shows")
            .arg(used)
            .arg(known_->wrong)
            .arg(known_->wrongAt.size().area());
  }
  about_->setText(about);
  about_->setToolTip(all);
}

}  // namespace hscaffold::app
