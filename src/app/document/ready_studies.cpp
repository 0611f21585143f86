#include "app/document/ready_studies.h"

#include <QFile>
#include <array>
#include <string_view>

#include "app/desk.h"
#include "app/document/study_edits.h"
#include "core/pose/body.h"
#include "core/pose/library.h"
#include "files/figure_files.h"

/// The pictures are in the library, which has to be told to bring them.
static void bringReadyPictures() { Q_INIT_RESOURCE(ready); }

namespace hscaffold::app {
namespace {

constexpr std::array<ReadyStudy, 3> begun{{
    {"ready photograph", "A photograph in another medium",
     "A tea house as a watercolour: its edges are kept, its light only at the beginning.", ":/ready/tea-house.jpg"},
    {"ready drawing", "A drawing made finished",
     "A pencil sketch of a sail cart: its lines become clean and are painted out.", ":/ready/sail-cart-sketch.jpg"},
    {"ready pose", "A pose of your own", "A figure to be bent as you like, and a keeper painted in its place.",
     nullptr},
}};

/// Of a guide: `to` and `rampOut` in percent of the steps.
Guide guideOf(const char* kind, const char* name, double weight, double to = 100, double rampOut = 0) {
  Guide out;
  out.kind = kind;
  out.name = name;
  out.weight = weight;
  out.range.to = to;
  out.range.rampOut = rampOut;
  return out;
}

void write(StudyState& state, const char* prompt, std::uint32_t seed) {
  state.brief.prompt = prompt;
  state.brief.emphasis.clear();
  state.brief.seed = seed;
}

void beginWithPose(Desk& desk) {
  const auto poses = pose::housePoses();
  const auto wanted = std::find_if(
      poses.begin(), poses.end(), [](const pose::NamedPose& pose) { return pose.name == "Looking into the distance"; });
  if (wanted == poses.end()) return;
  const auto& skeleton = pose::skeletonOf(wanted->skeleton);
  auto figure = pose::figureFrom(skeleton, pose::seenFrom(skeleton, wanted->pose, pose::poseViews()[1].turn), {});
  figure.name = wanted->name;
  pose::Figures figures;
  figures.figures.push_back(std::make_shared<const pose::Figure>(inTheMiddle(figure, desk.document.state().frame)));
  addPoseGuide(desk.document, "Pose", std::move(figures), [](StudyState& state) {
    write(state, "A lighthouse keeper on a cliff in a coat, morning light, gouache", 271);
  });
}

}  // namespace

std::span<const ReadyStudy> readyStudies() { return begun; }

void beginWith(Desk& desk, const ReadyStudy& ready) {
  if (ready.picture == nullptr) return beginWithPose(desk);
  bringReadyPictures();
  QFile file(ready.picture);
  if (!file.open(QIODevice::ReadOnly)) {
    emit desk.problem(QString("The picture of \"%1\" is not there.").arg(ready.name));
    return;
  }
  const QByteArray data = file.readAll();
  const auto bytes = std::as_bytes(std::span(data.constData(), static_cast<std::size_t>(data.size())));
  const bool photograph = std::string_view(ready.id) == "ready photograph";
  bringIn(desk, Bytes(bytes.begin(), bytes.end()), QString(ready.picture).section('/', -1),
          photograph
              ? std::vector{guideOf("tone", "Evening light", 0.35, 45, 25), guideOf("edges", "Tea house", 0.9, 100, 10)}
              : std::vector{guideOf("lines", "Line art", 0.9)},
          [photograph](StudyState& state) {
            if (photograph)
              write(state, "A tea house by the water at dusk, lanterns, watercolour, paper grain", 4117);
            else
              write(state, "A sail cart on a tidal flat under high clouds, gouache, bright morning", 88);
          });
}

}  // namespace hscaffold::app
