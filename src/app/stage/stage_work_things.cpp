// Things that come from elsewhere and go there: the clipboard, files, references; and what they give to guides.
#include <QFileInfo>

#include "app/stage/stage_work.h"
#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/retouch/painter.h"
#include "core/stage/copies.h"
#include "core/stage/gltf.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::app {

using stage::Prop;
using stage::Scene;
using stage::Thing;
using stage::Vec3;

std::string StageWork::copied() const {
  const Scene& now = scene();
  std::vector<std::string> things = stage::takenWith(now, selected_);
  if (things.empty())
    for (const Thing& thing : now.things) things.push_back(thing.id);
  return things.empty() ? std::string() : stage::sceneToText(stage::copyOf(now, things));
}

void StageWork::cutSelected() {
  const auto things = stage::takenWith(scene(), selected_);
  if (things.empty()) return;
  edit("Cut from the stage", [&](Scene& scene) {
    std::erase_if(scene.things, [&](const Thing& thing) {
      return std::find(things.begin(), things.end(), thing.id) != things.end();
    });
  });
}

bool StageWork::paste(const std::string& text) {
  constexpr std::size_t most = 64u << 20;
  if (text.size() > most || text.find("\"things\"") == std::string::npos) return false;
  Scene things;
  try {
    things = stage::sceneFromText(text, "The clipboard");
  } catch (const Problem& problem) {
    emit said(problem.what());
    return true;
  }
  // Beside what is there, where that is the very same place.
  const auto taken = [&](const Thing& thing, const Vec3& by) {
    return std::any_of(scene().things.begin(), scene().things.end(),
                       [&](const Thing& each) { return (each.place.at - thing.place.at - by).norm() < 0.05f; });
  };
  Vec3 by = Vec3::Zero();
  constexpr float step = 0.6f;
  for (int tries = 0; tries < 40 && !things.things.empty() && taken(things.things.front(), by); ++tries)
    by += Vec3(step, 0, step / 4);
  putThings("Paste onto the stage", things, by);
  return true;
}

bool StageWork::putThings(const QString& name, const Scene& things, const Vec3& by) {
  std::vector<std::string> ids;
  edit(name, [&](Scene& scene) { ids = stage::putInto(scene, things, by); });
  if (!ids.empty()) select(ids.front());
  if (ids.size() == things.things.size()) return true;
  emit said(QString("A stage takes at most %1 things: %2 of %3 are on it.")
                .arg(stage::mostThings)
                .arg(ids.size())
                .arg(things.things.size()));
  return false;
}

void StageWork::takeScene(const Scene& taken, const QString& from) {
  if (scene().things.empty()) {
    edit("Scene of a file", [&](Scene& scene) { scene = taken; });
    emit said(QString("The scene of %1.").arg(from));
    return;
  }
  if (putThings("Things of a scene", taken, Vec3::Zero()))
    emit said(QString("The things of %1 stand beside what was there.").arg(from));
}

std::function<void()> StageWork::writer(const QString& path) const {
  const std::filesystem::path file = path.toStdString();
  const QString end = QFileInfo(path).suffix().toLower();
  if (end == "gltf")
    return [scene = scene(), frame = desk_.document.state().frame, file] {
      const std::string text = stage::gltfFrom(scene, frame);
      writeFileAtomically(file, bytesOf(text));
    };
  if (end == "png")
    return [scene = scene(), frame = desk_.document.state().frame, file] {
      const auto look = stage::lookAt(scene, frame);
      writeFileAtomically(file, encodePng(toSrgb8(look.seen.colour.view()).view()));
    };
  return [text = stage::sceneToText(scene()), file] { writeFileAtomically(file, bytesOf(text)); };
}

namespace {
/// As high as it is, and as broad as the picture asks.
void show(Prop& panel, const StageWork::PanelShown& shown) {
  panel.picture = shown.picture;
  panel.shows = shown.name;
  const Size size = shown.picture->pixels().size();
  const float ratio = static_cast<float>(size.width) / static_cast<float>(size.height);
  panel.size.x() = std::clamp(panel.size.y() * ratio, stage::leastSide, stage::mostSide);
}

Prop* panelOf(Thing& thing) {
  auto* prop = std::get_if<Prop>(&thing.is);
  return prop != nullptr && prop->form == Prop::Form::panel ? prop : nullptr;
}
}  // namespace

void StageWork::withPicture(const Reference& reference, const std::string& key,
                            const std::function<void(const PanelShown&)>& done) {
  const auto pictures = desk_.maps.pictures();
  const auto found = pictures.find(reference.source());
  if (found == pictures.end()) {
    emit said("That reference is still being read: choose it again in a moment.");
    return;
  }
  desk_.tasks.run(
      this, "stage panel " + key, Priority::hand,
      [picture = found->second,
       name = fittedText(std::filesystem::path(reference.name).stem().string(), longestName)](const StopToken&) {
        return PanelShown{stage::PanelPicture::of(picture->view()), name};
      },
      done);
}

void StageWork::addPanel() {
  const Prop panel = stage::usualProp(Prop::Form::panel);
  const Reference* reference = desk_.document.state().selectedReference();
  if (reference == nullptr) return put("Panel onto the stage", "Panel", panel);
  withPicture(*reference, "new " + std::to_string(++panels_), [this, panel](const PanelShown& shown) {
    Prop made = panel;
    show(made, shown);
    put("Panel onto the stage", "Panel", made);
  });
}

void StageWork::showOnPanel(const std::string& id) {
  if (id.empty()) {
    editSelected("Panel without a picture", [&](Thing& thing) {
      if (Prop* panel = panelOf(thing)) panel->picture = nullptr, panel->shows.clear();
    });
    return;
  }
  const Reference* reference = desk_.document.state().reference(id);
  if (reference == nullptr) return;
  withPicture(*reference, selected_, [this, thing = selected_](const PanelShown& shown) {
    edit("Panel with a reference", [&](Scene& scene) {
      for (Thing& each : scene.things)
        if (Prop* panel = each.id == thing ? panelOf(each) : nullptr) show(*panel, shown);
    });
  });
}

void StageWork::limitGuide(const std::string& id) {
  const Guide* guide = desk_.document.state().guide(id);
  const Thing* thing = selectedThing();
  if (guide == nullptr || thing == nullptr) return;
  const std::string called = stage::calledOf(*thing);
  const auto which = static_cast<std::size_t>(thing - scene().things.data());
  desk_.tasks.run(
      this, "stage region " + id, Priority::hand,
      [scene = scene(), which, frame = desk_.document.state().frame](const StopToken& stop) {
        return stage::maskOf(stage::lookAt(scene, frame, stop), which);
      },
      [this, id, called](const Image<std::uint16_t>& mask) {
        const Guide* now = desk_.document.state().guide(id);
        if (now == nullptr || mask.size() != desk_.document.state().frame) return;
        bool seen = false;
        for (int y = 0; y < mask.height() && !seen; ++y)
          seen = std::any_of(mask.line(y).begin(), mask.line(y).end(), [](auto v) { return v > 0; });
        if (!seen) {
          emit said(QString("%1 is not seen in the frame.").arg(QString::fromStdString(called)));
          return;
        }
        const GuidePlace place = placeOf(desk_.document.state(), *now);
        const std::string region = desk_.document.work().keep(
            painted(Layer{place.frame, place.placing, {}}, mask.view(), PaintMode::draw, {}));
        const QString name = QString::fromStdString(now->name);
        desk_.document.change("Limit a guide to a thing", [&](StudyState& s) {
          if (Guide* each = s.guide(id)) each->work.put(regionSlot, region), each->region = {};
        });
        emit said(QString("%1 acts where %2 is seen now.").arg(name, QString::fromStdString(called)));
      });
}

void StageWork::fasten(const std::string& id, const std::string& joint) {
  const Guide* guide = desk_.document.state().guide(id);
  const Thing* thing = selectedThing();
  if (guide == nullptr || thing == nullptr) return;
  const QString name = QString::fromStdString(guide->name), called = QString::fromStdString(stage::calledOf(*thing));
  Guide fastened = *guide;
  if (!stage::fasten(fastened, scene(), desk_.document.state().frame, selected_, joint)) {
    emit said(QString("%1 is not before the eye.").arg(called));
    return;
  }
  desk_.document.change("Fasten hand work",
                        [&](StudyState& s) { s.guide(id)->stage.fastened = fastened.stage.fastened; });
  emit said(QString("Retouch and region of %1 go along with %2%3.")
                .arg(name, called, joint.empty() ? QString() : ", " + readable(joint)));
  emit changed();
}

void StageWork::unfasten(const std::string& id) {
  const Guide* guide = desk_.document.state().guide(id);
  if (guide == nullptr) return;
  const QString name = QString::fromStdString(guide->name);
  if (stage::isOutOfFrame(*guide)) {
    emit said(QString("The hand work of %1 is outside the frame with its thing: bring that back in first.").arg(name));
    return;
  }
  desk_.document.change("Let go of hand work", [&](StudyState& s) {
    if (Guide* each = s.guide(id)) each->stage.fastened = {};
  });
  emit said(QString("Retouch and region of %1 stay where they are.").arg(name));
  emit changed();
}

}  // namespace hscaffold::app
