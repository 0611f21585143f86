/// A scene: figures, animals and things on a set, an eye with shots, and a light. Everything in metres and degrees, y
/// up, the ground at height 0; what has no turn faces +z, towards where the eye stands at first.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "core/guides/json_fields.h"
#include "core/pose/library.h"
#include "core/stage/animal.h"
#include "core/stage/body.h"
#include "core/stage/model.h"
#include "core/stage/panel.h"
#include "core/stage/props.h"
#include "core/stage/raster.h"

namespace hscaffold::stage {

struct Person {
  std::vector<double> angles;  ///< degrees, one for each turn of the human skeleton; empty: standing at rest
  float size = 1.7f;           ///< standing height, `limits::figureSize`
  Build build;
  Clothes clothes;
  Hand left, right;
  friend bool operator==(const Person&, const Person&) = default;
};

struct Beast {
  Animal kind = Animal::dog;
  std::vector<double> angles;  ///< as of a person, of the four-legged skeleton
  float size = 0.9f;           ///< nose to tail root
  AnimalBuild build;
  Rgb coat{0.3f, 0.2f, 0.1f};
  friend bool operator==(const Beast&, const Beast&) = default;
};

struct Prop {
  enum class Form {
    box,
    ball,
    cylinder,
    stair,
    table,
    chair,
    bench,
    post,
    rail,
    arch,
    wall,
    sheet,
    boat,
    tree,
    lump,
    panel,
    model
  };
  Form form = Form::box;
  Vec3 size{1, 1, 1};      ///< across, high, deep; each at least `leastSide`
  float wind = 0.4f;       ///< of a sheet, [0, 1]
  std::uint32_t seed = 1;  ///< of what grew: tree, lump
  Rgb colour{0.45f, 0.42f, 0.38f};
  std::shared_ptr<const Model> model;           ///< of a model, which has one always
  std::shared_ptr<const PanelPicture> picture;  ///< of a panel; null: its colour
  std::string shows;                            ///< what that picture is called, for reading
  friend bool operator==(const Prop&, const Prop&) = default;
};
inline constexpr float leastSide = 0.01f, mostSide = 200;
/// "box", "ball", ... in files, on the command line and on screens.
const char* idOf(Prop::Form form);
std::optional<Prop::Form> formNamed(const std::string& id);
/// As it usually is: a table of a table's size.
Prop usualProp(Prop::Form form);
/// A thing out of a file, as large as it is there and in its colour.
Prop propOf(const ReadModel& read);

/// Holds a key point of a figure.
struct Pin {
  std::string point;       ///< id in its skeleton
  std::string on;          ///< id of another thing, with which it goes along; empty: a place of the stage
  Vec3 at = Vec3::Zero();  ///< on the stage, or in that thing's own axes
  friend bool operator==(const Pin&, const Pin&) = default;
};
struct Gaze {
  bool on = false;
  std::string thing;  ///< id of what is looked at; empty: the eye
  friend bool operator==(const Gaze&, const Gaze&) = default;
};

struct Thing {
  std::string id;    ///< unique in its scene
  std::string name;  ///< for reading
  Place place;
  bool hidden = false;
  std::variant<Person, Beast, Prop> is;
  bool locked = false;         ///< stays where it is and as it is
  std::string group = {};      ///< things of the same one move together; empty: alone
  std::vector<Pin> pins = {};  ///< of a figure, at most `mostPins`
  Gaze gaze = {};              ///< of a figure
  friend bool operator==(const Thing&, const Thing&) = default;
};

/// Whether it is a figure or an animal.
bool isFigure(const Thing& thing);
/// Of a figure or an animal.
const pose::Skeleton& skeletonOf(const Thing& thing);
/// What a body is built from, without where it stands.
BodySpec specOf(const Person& person);
AnimalSpec specOf(const Beast& beast);
/// Of a figure or an animal, as long as its skeleton has turns. @throws std::bad_variant_access for a thing
std::vector<double> anglesOf(const Thing& thing);
void setAngles(Thing& thing, std::vector<double> angles);
/// Angles of a pose of the library for a body that faces where it is turned to.
std::vector<double> anglesAhead(const pose::NamedPose& pose);

/// Where a scene is seen from.
struct Eye {
  Vec3 at{0, 1.4f, 5};
  float turn = 0;          ///< degrees, to the left; 0 looks along -z
  float tilt = 0;          ///< degrees, up
  float roll = 0;          ///< degrees, counter-clockwise in the picture
  float millimetres = 38;  ///< [14, 200], for a frame 36 mm wide
};
Camera cameraOf(const Eye& eye, Size size);
/// The same eye turned and tilted so that a place lies in the middle of its picture.
Eye lookingFrom(const Vec3& at, const Vec3& target, float millimetres);

struct Shot {
  std::string name;
  Eye eye;
};

struct SceneLight {
  float from = -35;        ///< degrees round, where it comes from: 0 behind the first eye, to its left grows negative
  float height = 50;       ///< degrees above the ground, [2, 90]
  float strength = 0.75f;  ///< against the light from all round, [0, 1]
  float soft = 0.2f;       ///< how blurred its shadows' borders are, [0, 1]
  float bounce = 0.55f;    ///< what comes back from the ground, of what comes from the sky, [0, 1]
  friend bool operator==(const SceneLight&, const SceneLight&) = default;
};

struct Scene {
  std::vector<Thing> things;  ///< at most `mostThings`
  Eye eye;
  std::vector<Shot> shots;
  SceneLight light;
  bool ground = true;
  [[nodiscard]] const Thing* thing(const std::string& id) const;
};
inline constexpr std::size_t mostThings = 500, mostShots = 100, mostPins = 16;

/// An id that no thing has yet.
std::string newThingId(const Scene& scene);

/// Whether the same is seen of them, whatever they are called or held by.
bool looksAlike(const Thing& a, const Thing& b);

/// What is seen of a scene: one mesh for each thing that is not hidden, with normals; object numbers are places in
/// `Scene::things` plus 1, of the ground `groundObject`.
struct Set {
  std::vector<Mesh> meshes;
  struct Actor {
    std::size_t thing = 0;      ///< in `Scene::things`
    std::vector<Vec3> points;   ///< key points of its skeleton
    std::vector<float> radius;  ///< how deep each lies under its own surface, at most
  };
  std::vector<Actor> actors;
};
inline constexpr std::uint16_t groundObject = 0xffff;
Set setOf(const Scene& scene);
/// The same, where things that stand as they did before are taken over from `before`, their set.
Set setOf(const Scene& scene, std::span<const Thing> things, const Set& before);
/// Of one thing alone, hidden or not; its number is 1.
Set setOf(const Thing& thing);
Lighting lightingOf(const SceneLight& light);

/// As JSON after docs/scene.schema.json. @throws Problem (badInput); with `mended` what is wrong is left out and said.
std::string sceneToText(const Scene& scene);
Scene sceneFromText(const std::string& text, const std::string& where, Mended* mended = nullptr);

/// Sets to begin with, made up by us.
struct NamedScene {
  const char* id;
  const char* name;
  Scene (*make)();
};
std::span<const NamedScene> houseScenes();

}  // namespace hscaffold::stage
