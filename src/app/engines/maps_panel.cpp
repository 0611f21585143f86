#include "app/engines/maps_panel.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <algorithm>

#include "app/desk.h"
#include "app/engines/panel_parts.h"
#include "app/images.h"
#include "app/proofs/own_programs.h"
#include "app/proofs/own_services.h"
#include "app/widgets/note_label.h"
#include "core/job/maps_wanted.h"
#include "core/kinds.h"
#include "core/study/pull_sets.h"

namespace hscaffold::app {
namespace {

constexpr int mostShown = 4;
constexpr QSize shownSize{128, 96};

/// One of the study's maps, ready to be converted on another thread.
struct Going {
  std::string name, kind;
  Tuning tuning;
  std::shared_ptr<const Map> map;
  std::shared_ptr<const ColourMap> colour;
  std::shared_ptr<const pose::Figures> figures;
};

/// As the engine gets it, and what is said of it.
struct Gone {
  QImage picture;
  QString said;
};

Gone converted(const Going& going, const MapsWanted& wanted, Size pictureSize) {
  const Kind& kind = kindOf(going.kind);
  GuideInput input;
  input.map = going.map->clone();
  if (going.colour) input.colour = going.colour->clone();
  if (going.figures) input.work.put(pose::figuresSlot, std::any(going.figures));
  const GuideInput out = asWanted(kind, input, wanted, going.tuning, pictureSize);
  const QImage picture = out.colour.empty() ? greyImage(out.map.view()) : toQImage(out.colour.view());
  const auto name = wanted.called.find(going.kind);
  return {picture.scaled(shownSize, Qt::KeepAspectRatio, Qt::SmoothTransformation),
          QString("%1\n\"%2\"\n%3 x %4")
              .arg(QString::fromStdString(going.name),
                   QString::fromStdString(name != wanted.called.end() ? name->second : going.kind))
              .arg(out.map.width())
              .arg(out.map.height())};
}

}  // namespace

MapsPanel::MapsPanel(Desk& desk, std::string engine, QWidget* parent)
    : QFrame(parent), desk_(desk), engine_(std::move(engine)) {
  const auto info = desk_.engines.info(engine_);
  auto* column = panelColumn(*this, "maps panel", "Maps as " + QString::fromStdString(info->title) + " wants them",
                             "They are converted on their way to it; the study keeps its own.");
  wishes_ = new MapWishes;
  wishes_->show(info->maps);
  column->addWidget(wishes_);
  auto* row = new QWidget;
  row->setFixedHeight(shownSize.height() + 58);
  shown_ = new QHBoxLayout(row);
  shown_->setContentsMargins(0, 0, 0, 0);
  shown_->setSpacing(8);
  column->addWidget(row);
  said_ = noteLabel();
  said_->setObjectName("maps said");
  said_->setWordWrap(true);
  column->addWidget(said_);
  auto* foot = new QHBoxLayout;
  const auto services = ownServices();
  if (std::any_of(services.begin(), services.end(), [&](const RemoteSetup& each) { return each.name == engine_; })) {
    auto* own = new QPushButton("As it says itself");
    own->setObjectName("maps as said");
    own->setToolTip("What the service says of itself when it is asked");
    connect(own, &QPushButton::clicked, this, [this] {
      setServiceMaps(desk_, engine_, {});
      close();
    });
    foot->addWidget(own);
  }
  foot->addStretch(1);
  auto* keep = new QPushButton("Keep");
  keep->setObjectName("keep maps");
  keep->setProperty("role", "primary");
  connect(keep, &QPushButton::clicked, this, &MapsPanel::keep);
  foot->addWidget(keep);
  column->addLayout(foot);
  setFixedWidth(600);
  connect(wishes_, &MapWishes::changed, this, &MapsPanel::preview);
  connect(wishes_, &MapWishes::problem, said_, &QLabel::setText);
  preview();
}

void MapsPanel::preview() {
  std::vector<Going> all;
  const auto& state = desk_.document.state();
  for (const Guide& guide : state.guides) {
    const MapPicture* map = desk_.maps.mapOf(guide.id);
    if (!guide.on || map == nullptr || !map->map || static_cast<int>(all.size()) >= mostShown) continue;
    all.push_back({guide.name, guide.kind, guide.tuning, map->map, map->colour, desk_.maps.figuresOf(guide)});
  }
  if (all.empty()) return said_->setText("With a guide that is on, its map is shown here as it goes out.");
  desk_.tasks.run(
      this, "maps as wanted", Priority::maps,
      [all, wanted = wishes_->wanted(), size = pullRecipeOf(state).frame](const StopToken& stop) {
        std::vector<Gone> out;
        for (const Going& going : all) {
          throwIfStopped(stop);
          out.push_back(converted(going, wanted, size));
        }
        return out;
      },
      [this](const std::vector<Gone>& out) {
        while (QLayoutItem* item = shown_->takeAt(0)) {
          delete item->widget();
          delete item;
        }
        for (const Gone& gone : out) {
          auto* cell = new QWidget;
          auto* column = new QVBoxLayout(cell);
          column->setContentsMargins(0, 0, 0, 0);
          column->setSpacing(3);
          auto* picture = new QLabel;
          picture->setObjectName("map going out");
          picture->setPixmap(QPixmap::fromImage(gone.picture));
          column->addWidget(picture);
          column->addWidget(noteLabel(gone.said));
          column->addStretch(1);
          shown_->addWidget(cell);
        }
        shown_->addStretch(1);
      });
}

void MapsPanel::keyPressEvent(QKeyEvent* event) {
  if (!panelKey(*this, *event, [this] { keep(); })) QFrame::keyPressEvent(event);
}

void MapsPanel::keep() {
  const MapsWanted wanted = wishes_->wanted();
  auto programs = ownPrograms();
  const auto program =
      std::find_if(programs.begin(), programs.end(), [&](const ProgramSetup& each) { return each.name == engine_; });
  try {
    if (program != programs.end()) {
      program->maps = wanted;
      rememberProgram(desk_, *program);
    } else {
      setServiceMaps(desk_, engine_, wanted);
    }
    close();
  } catch (const Problem& problem) {
    said_->setText(QString::fromUtf8(problem.what()));
  }
}

}  // namespace hscaffold::app
