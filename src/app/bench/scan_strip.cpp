#include "app/bench/scan_strip.h"

#include <QHBoxLayout>
#include <QHelpEvent>
#include <QLabel>
#include <QPainter>
#include <QToolButton>
#include <QToolTip>
#include <QVBoxLayout>

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

/// Below that a code that reads here may not read there.
constexpr double safeMargin = 30;
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

QImage smallGrey(const Image<std::uint8_t>& picture, Size size) {
  const QImage whole(picture.row(0), picture.width(), picture.height(), static_cast<qsizetype>(picture.stride()),
                     QImage::Format_Grayscale8);
  return whole.scaled(size.width, size.height, Qt::KeepAspectRatio, Qt::SmoothTransformation);
}

}  // namespace

struct ScanStrip::Found {
  std::shared_ptr<const Scan> scan;  ///< null where the map has no code
  std::vector<QImage> looks;
  std::shared_ptr<const Map> wrong;
};

/// A small picture for each way of looking, in the colour of how it reads.
class ScanStrip::Ways : public QWidget {
 public:
  Ways() {
    setFixedHeight(56);
    setObjectName("ways of looking");
    setAccessibleName("Ways of looking");
  }
  void set(std::shared_ptr<const Scan> scan, std::vector<QImage> looks) {
    scan_ = std::move(scan);
    looks_ = std::move(looks);
    QStringList all;
    if (scan_)
      for (const ScanWay& way : scan_->ways) all << QString("%1 %2").arg(way.name, way.reads() ? "reads" : "does not");
    setAccessibleDescription(all.join(", "));
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(textFont(7.5));
    for (std::size_t i = 0; scan_ && i < scan_->ways.size(); ++i) {
      const ScanWay& way = scan_->ways[i];
      const QRectF cell = cellOf(i);
      painter.setBrush(theme().raised);
      painter.setPen(QPen(way.reads() ? theme().good : theme().bad, 1.2));
      painter.drawRoundedRect(cell, 3, 3);
      QRectF picture = cell.adjusted(3, 3, -3, -17);
      if (i < looks_.size() && !looks_[i].isNull()) {
        QSizeF size = looks_[i].size();
        size.scale(picture.size(), Qt::KeepAspectRatio);
        const QPointF middle = picture.center();
        picture = QRectF(middle - QPointF(size.width() / 2, size.height() / 2), size);
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(picture, looks_[i]);
      }
      painter.setPen(way.reads() ? theme().text : theme().softText);
      const QRectF name(cell.left(), cell.bottom() - 16, cell.width(), 15);
      painter.drawText(name, Qt::AlignCenter,
                       painter.fontMetrics().elidedText(way.name, Qt::ElideRight, static_cast<int>(name.width()) - 2));
    }
  }
  bool event(QEvent* event) override {
    if (event->type() == QEvent::ToolTip && scan_) {
      const auto* help = static_cast<QHelpEvent*>(event);
      for (std::size_t i = 0; i < scan_->ways.size(); ++i)
        if (cellOf(i).contains(help->pos())) {
          const ScanWay& way = scan_->ways[i];
          QToolTip::showText(
              help->globalPos(),
              QString("%1: read by %2 % of the decoder's set-ups").arg(way.name).arg(std::lround(100 * way.share)),
              this);
          return true;
        }
    }
    return QWidget::event(event);
  }

 private:
  [[nodiscard]] QRectF cellOf(std::size_t i) const {
    const double gap = 4, step = (width() + gap) / static_cast<double>(std::max<std::size_t>(1, scan_->ways.size()));
    return {static_cast<double>(i) * step + 0.5, 0.5, step - gap, height() - 2.0};
  }
  std::shared_ptr<const Scan> scan_;
  std::vector<QImage> looks_;
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
  ways_ = new Ways;
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
  connect(&themeSignals(), &ThemeSignals::changed, ways_, qOverload<>(&QWidget::update));
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
          constexpr Size small{96, 64};
          for (const auto& look : scanLooks(pixels.view(), stop)) out.looks.push_back(smallGrey(look, small));
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
  const bool reads = !known_->text.empty();
  const QColor colour = !reads ? theme().bad : known_->margin < safeMargin ? theme().doubt : theme().good;
  setOwnSheet(*margin_, QString("color: %1").arg(colour.name()));
  margin_->setText(reads ? QString("Scans with margin %1").arg(std::lround(known_->margin)) : QString("Does not scan"));
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
