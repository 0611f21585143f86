#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/brief/recipe.h"
#include "core/pose/skeleton.h"
#include "core/stage/scene.h"
#include "core/text.h"

namespace hscaffold::stage {
namespace {

constexpr double farthest = 1000;  // metres
constexpr std::array<const char*, 5> animalIds = {"dog", "fox", "horse", "cow", "cat"};
constexpr std::array<const char*, 7> hairIds = {"none", "cropped", "bob", "lengthy", "bun", "tail", "full"};
constexpr std::array<const char*, 7> hatIds = {"none", "brimmed", "cap", "cone", "hood", "helmet", "band"};
constexpr std::array<const char*, 8> heldIds = {"nothing", "staff", "blade", "bag", "parasol", "box", "ball", "torch"};

/// Files have as many figures as there are, and not the noise behind them.
double rounded(float value) { return std::round(static_cast<double>(value) * 1e5) / 1e5; }

/// Within what is read again.
nlohmann::json toJson(const Vec3& v) {
  const Vec3 kept = v.cwiseMax(-static_cast<float>(farthest)).cwiseMin(static_cast<float>(farthest));
  return {rounded(kept.x()), rounded(kept.y()), rounded(kept.z())};
}

Vec3 vectorFrom(JsonFields& fields, const char* key, double least, double most, const Vec3& usual,
                const std::string& where) {
  if (!fields.has(key)) return usual;
  const auto numbers = numbersFromJson(fields.child(key), where + ", " + key, 3);
  Vec3 out;
  for (int i = 0; i < 3; ++i) {
    const double value = numbers[static_cast<std::size_t>(i)];
    if (!(value >= least && value <= most))
      throw badInput(fmt::format("{}: {} goes from {} to {}.", where, key, least, most));
    out[i] = static_cast<float>(value);
  }
  return out;
}

template <std::size_t Count>
std::size_t oneOf(JsonFields& fields, const char* key, const std::array<const char*, Count>& ids, std::size_t usual,
                  const std::string& where) {
  if (!fields.has(key)) return usual;
  const std::string word = fields.text(key);
  const auto found = std::find(ids.begin(), ids.end(), word);
  if (found == ids.end()) throw badInput(fmt::format("{}: \"{}\" is no {}.", where, word, key));
  return static_cast<std::size_t>(found - ids.begin());
}

/// A number field and where it stands, so that each is written and read in one place.
struct Number {
  const char* key;
  float* value;
  double least, most;
};
void read(JsonFields& fields, std::initializer_list<Number> numbers) {
  for (const Number& each : numbers)
    *each.value = static_cast<float>(fields.number(each.key, each.least, each.most, static_cast<double>(*each.value)));
}
void write(nlohmann::json& json, std::initializer_list<Number> numbers) {
  for (const Number& each : numbers) json[each.key] = rounded(*each.value);
}

/// What of a build is on file. The same list reads and writes.
template <typename Use>
void withNumbers(Build& b, const Use& use) {
  use({{"girth", &b.girth, 0.5, 2},
       {"shoulders", &b.shoulders, 0.6, 1.6},
       {"hips", &b.hips, 0.6, 1.8},
       {"belly", &b.belly, 0, 1},
       {"bust", &b.bust, 0, 1},
       {"head", &b.head, 0.6, 1.8},
       {"limbs", &b.limbs, 0.75, 1.25},
       {"muscle", &b.muscle, 0, 1},
       {"child", &b.child, 0, 1}});
}
template <typename Use>
void withNumbers(AnimalBuild& b, const Use& use) {
  use({{"legs", &b.legs, 0.4, 2},
       {"neck", &b.neck, 0.4, 2},
       {"muzzle", &b.muzzle, 0.4, 2},
       {"tail", &b.tail, 0, 2},
       {"girth", &b.girth, 0.5, 2},
       {"limbs", &b.limbs, 0.5, 2},
       {"head", &b.head, 0.5, 2},
       {"eyes", &b.eyes, 0.4, 2},
       {"ears", &b.ears, 0.2, 3},
       {"brush", &b.brush, 0.3, 3},
       {"droop", &b.droop, 0, 1}});
}
template <typename Use>
void withNumbers(Clothes& c, const Use& use) {
  use({{"loose", &c.loose, 0, 1},
       {"sleeves", &c.sleeves, 0, 1},
       {"sleeve-flare", &c.sleeveFlare, 0, 1},
       {"trousers", &c.trousers, 0, 1},
       {"leg-flare", &c.legFlare, 0, 1},
       {"skirt", &c.skirtLength, 0, 1},
       {"skirt-flare", &c.skirtFlare, 0, 1},
       {"cloak", &c.cloakLength, 0, 1}});
}
template <typename Use>
void withColours(Clothes& c, const Use& use) {
  use("skin-colour", c.skin);
  use("hair-colour", c.hair);
  use("top-colour", c.top);
  use("legs-colour", c.legs);
  use("skirt-colour", c.skirt);
  use("cloak-colour", c.cloak);
  use("hat-colour", c.hat);
  use("shoes-colour", c.shoes);
  use("held-colour", c.held);
}

nlohmann::json anglesToJson(const char* skeleton, const std::vector<double>& angles) {
  nlohmann::json out = nlohmann::json::object();
  const auto& turns = pose::skeletonOf(skeleton).turns;
  for (std::size_t i = 0; i < std::min(turns.size(), angles.size()); ++i)
    if (angles[i] != 0) out[turns[i].id] = std::round(angles[i] * 1e4) / 1e4;
  return out;
}

std::vector<double> anglesFromJson(JsonFields& fields, const char* skeletonId, const std::string& where) {
  const auto& skeleton = pose::skeletonOf(skeletonId);
  std::vector<double> out(skeleton.turns.size(), 0);
  if (!fields.has("angles")) return out;
  const auto& json = fields.child("angles");
  if (!json.is_object()) throw badInput(where + ": angles are an object of turns and degrees.");
  for (const auto& [id, value] : json.items()) {
    const auto turn = skeleton.findTurn(id);
    if (!turn) throw badInput(fmt::format("{}: there is no turn \"{}\".", where, id));
    if (!value.is_number()) throw badInput(fmt::format("{}: {} is no number of degrees.", where, id));
    const auto& limits = skeleton.turns[*turn];
    out[*turn] = std::clamp(value.get<double>(), limits.least, limits.most);
  }
  return out;
}

nlohmann::json clothesToJson(Clothes wear) {
  nlohmann::json out;
  withNumbers(wear, [&](std::initializer_list<Number> numbers) { write(out, numbers); });
  withColours(wear, [&](const char* key, Rgb& colour) { out[key] = colourToJson(colour); });
  out["hair"] = hairIds[static_cast<std::size_t>(wear.hairStyle)];
  out["beard"] = wear.beard;
  out["hat"] = hatIds[static_cast<std::size_t>(wear.headgear)];
  out["left"] = heldIds[static_cast<std::size_t>(wear.left)];
  out["right"] = heldIds[static_cast<std::size_t>(wear.right)];
  out["belt"] = wear.belt;
  out["scarf"] = wear.scarf;
  out["pack"] = wear.pack;
  return out;
}

Clothes clothesFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Clothes out;
  withNumbers(out, [&](std::initializer_list<Number> numbers) { read(fields, numbers); });
  withColours(out, [&](const char* key, Rgb& colour) {
    if (fields.has(key)) colour = colourFromJson(fields.child(key), where + ", " + key);
  });
  out.hairStyle = static_cast<HairStyle>(oneOf(fields, "hair", hairIds, 1, where));
  out.beard = fields.flag("beard", false);
  out.headgear = static_cast<Hat>(oneOf(fields, "hat", hatIds, 0, where));
  out.left = static_cast<Held>(oneOf(fields, "left", heldIds, 0, where));
  out.right = static_cast<Held>(oneOf(fields, "right", heldIds, 0, where));
  out.belt = fields.flag("belt", false);
  out.scarf = fields.flag("scarf", false);
  out.pack = fields.flag("pack", false);
  fields.refuseOthers();
  return out;
}

template <typename Numbers>
Numbers numbersIn(JsonFields& fields, const char* key, const std::string& where) {
  Numbers out;
  if (!fields.has(key)) return out;
  JsonFields inside(fields.child(key), where + ", " + key);
  withNumbers(out, [&](std::initializer_list<Number> numbers) { read(inside, numbers); });
  inside.refuseOthers();
  return out;
}

template <typename Numbers>
nlohmann::json numbersToJson(Numbers from) {
  nlohmann::json out;
  withNumbers(from, [&](std::initializer_list<Number> numbers) { write(out, numbers); });
  return out;
}

nlohmann::json toJson(const Hand& hand) { return {{"grip", idOf(hand.grip)}, {"bend", rounded(hand.bend)}}; }

Hand handIn(JsonFields& fields, const char* key, const std::string& where) {
  Hand out;
  if (!fields.has(key)) return out;
  JsonFields inside(fields.child(key), where + ", " + key);
  const std::string grip = inside.text("grip", idOf(Grip::relaxed));
  const auto named = gripNamed(grip);
  if (!named) throw badInput(fmt::format("{}: \"{}\" is no grip.", where, grip));
  out.grip = *named;
  out.bend = static_cast<float>(inside.number("bend", leastWristBend, mostWristBend, 0));
  inside.refuseOthers();
  return out;
}

nlohmann::json toJson(const Thing& thing) {
  nlohmann::json out{{"id", thing.id}, {"name", thing.name}, {"at", toJson(thing.place.at)}};
  if (thing.place.turn != 0) out["turn"] = rounded(thing.place.turn);
  if (thing.hidden) out["hidden"] = true;
  if (thing.locked) out["locked"] = true;
  if (!thing.group.empty()) out["group"] = thing.group;
  for (const Pin& pin : thing.pins) {
    nlohmann::json json{{"point", pin.point}, {"at", toJson(pin.at)}};
    if (!pin.on.empty()) json["on"] = pin.on;
    out["pins"].push_back(std::move(json));
  }
  if (thing.gaze.on) out["looks-at"] = thing.gaze.thing;
  if (const auto* person = std::get_if<Person>(&thing.is)) {
    out["person"] = {{"size", rounded(person->size)},         {"angles", anglesToJson("human", person->angles)},
                     {"build", numbersToJson(person->build)}, {"clothes", clothesToJson(person->clothes)},
                     {"left-hand", toJson(person->left)},     {"right-hand", toJson(person->right)}};
  } else if (const auto* beast = std::get_if<Beast>(&thing.is)) {
    out["animal"] = {{"kind", animalIds[static_cast<std::size_t>(beast->kind)]},
                     {"size", rounded(beast->size)},
                     {"angles", anglesToJson("four-legged", beast->angles)},
                     {"build", numbersToJson(beast->build)},
                     {"coat", colourToJson(beast->coat)}};
  } else {
    const Prop& prop = std::get<Prop>(thing.is);
    out["prop"] = {{"form", idOf(prop.form)}, {"size", toJson(prop.size)}, {"colour", colourToJson(prop.colour)}};
    if (prop.model != nullptr) {
      const std::string text = modelToText(*prop.model);
      const auto comma = text.find(',');
      out["prop"]["points"] = text.substr(0, comma);
      out["prop"]["faces"] = text.substr(comma + 1);
    }
    if (prop.picture != nullptr) {
      out["prop"]["picture"] = prop.picture->text();
      if (!prop.shows.empty()) out["prop"]["shows"] = prop.shows;
    }
    if (prop.form == Prop::Form::sheet) out["prop"]["wind"] = rounded(prop.wind);
    if (prop.form == Prop::Form::tree || prop.form == Prop::Form::lump) out["prop"]["seed"] = prop.seed;
  }
  return out;
}

std::vector<Pin> pinsFromJson(const nlohmann::json& json, const std::string& where) {
  if (!json.is_array() || json.size() > mostPins)
    throw badInput(fmt::format("{}: they are a list of at most {}.", where, mostPins));
  std::vector<Pin> out;
  for (const auto& each : json) {
    JsonFields fields(each, where);
    Pin pin;
    pin.point = fittedText(fields.text("point"), longestName);
    pin.on = fittedText(fields.text("on", ""), longestName);
    pin.at = vectorFrom(fields, "at", -farthest, farthest, Vec3::Zero(), where);
    fields.refuseOthers();
    out.push_back(std::move(pin));
  }
  return out;
}

Thing thingFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Thing out;
  out.id = fields.text("id");
  if (out.id.empty() || charactersIn(out.id) > longestName) throw badInput(where + ": its id is empty or too long.");
  out.name = fittedText(fields.text("name", ""), longestName);
  out.place.at = vectorFrom(fields, "at", -farthest, farthest, Vec3::Zero(), where);
  out.place.turn = static_cast<float>(fields.number("turn", -3600, 3600, 0.0));
  out.hidden = fields.flag("hidden", false);
  out.locked = fields.flag("locked", false);
  out.group = fittedText(fields.text("group", ""), longestName);
  if (fields.has("pins")) out.pins = pinsFromJson(fields.child("pins"), where + ", pins");
  if (fields.has("looks-at")) out.gaze = {true, fittedText(fields.text("looks-at"), longestName)};
  const int kinds = (fields.has("person") ? 1 : 0) + (fields.has("animal") ? 1 : 0) + (fields.has("prop") ? 1 : 0);
  if (kinds != 1) throw badInput(where + ": it has to be one of person, animal and prop.");
  if (fields.has("person")) {
    JsonFields inside(fields.child("person"), where + ", person");
    Person person;
    person.size = static_cast<float>(inside.number("size", 0.2, 4, 1.7));
    person.angles = anglesFromJson(inside, "human", where);
    person.build = numbersIn<Build>(inside, "build", where);
    if (inside.has("clothes")) person.clothes = clothesFromJson(inside.child("clothes"), where + ", clothes");
    person.left = handIn(inside, "left-hand", where);
    person.right = handIn(inside, "right-hand", where);
    inside.refuseOthers();
    out.is = std::move(person);
  } else if (fields.has("animal")) {
    JsonFields inside(fields.child("animal"), where + ", animal");
    Beast beast;
    beast.kind = static_cast<Animal>(oneOf(inside, "kind", animalIds, 0, where));
    beast.size = static_cast<float>(inside.number("size", 0.1, 5, 0.9));
    beast.angles = anglesFromJson(inside, "four-legged", where);
    beast.build = numbersIn<AnimalBuild>(inside, "build", where);
    if (inside.has("coat")) beast.coat = colourFromJson(inside.child("coat"), where + ", coat");
    inside.refuseOthers();
    out.is = std::move(beast);
  } else {
    JsonFields inside(fields.child("prop"), where + ", prop");
    const std::string form = inside.text("form");
    const auto known = formNamed(form);
    if (!known) throw badInput(fmt::format("{}: \"{}\" is no prop.", where, form));
    Prop prop = usualProp(*known);
    prop.size = vectorFrom(inside, "size", static_cast<double>(leastSide), static_cast<double>(mostSide), prop.size,
                           where + ", prop");
    prop.wind = static_cast<float>(inside.number("wind", 0, 1, static_cast<double>(prop.wind)));
    prop.seed = static_cast<std::uint32_t>(inside.integer("seed", 0, 1'000'000, 1));
    if (inside.has("colour")) prop.colour = colourFromJson(inside.child("colour"), where + ", colour");
    if (prop.form == Prop::Form::model)
      prop.model = modelFromText(inside.text("points"), inside.text("faces"), where + ", prop");
    if (prop.form == Prop::Form::panel && inside.has("picture")) {
      prop.picture = panelPictureFromText(inside.text("picture"), where + ", prop");
      prop.shows = fittedText(inside.text("shows", ""), longestName);
    }
    inside.refuseOthers();
    out.is = prop;
  }
  fields.refuseOthers();
  return out;
}

nlohmann::json toJson(const Eye& eye) {
  return {{"at", toJson(eye.at)},
          {"turn", rounded(eye.turn)},
          {"tilt", rounded(eye.tilt)},
          {"roll", rounded(eye.roll)},
          {"millimetres", rounded(eye.millimetres)}};
}

Eye eyeFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Eye out;
  out.at = vectorFrom(fields, "at", -farthest, farthest, out.at, where);
  read(fields, {{"turn", &out.turn, -3600, 3600},
                {"tilt", &out.tilt, -90, 90},
                {"roll", &out.roll, -180, 180},
                {"millimetres", &out.millimetres, 14, 200}});
  fields.refuseOthers();
  return out;
}

}  // namespace

std::string sceneToText(const Scene& scene) {
  nlohmann::json out{{"scene", 1},
                     {"things", nlohmann::json::array()},
                     {"eye", toJson(scene.eye)},
                     {"light",
                      {{"from", rounded(scene.light.from)},
                       {"height", rounded(scene.light.height)},
                       {"strength", rounded(scene.light.strength)},
                       {"soft", rounded(scene.light.soft)},
                       {"bounce", rounded(scene.light.bounce)}}},
                     {"ground", scene.ground}};
  for (const Thing& thing : scene.things) out["things"].push_back(toJson(thing));
  for (const Shot& shot : scene.shots) out["shots"].push_back({{"name", shot.name}, {"eye", toJson(shot.eye)}});
  return out.dump(1) + "\n";
}

Scene sceneFromText(const std::string& text, const std::string& where, Mended* mended) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where, mended);
  fields.integer("scene", 1, 1);
  Scene out;
  std::set<std::string> ids;
  for (const auto& each : fields.list("things")) {
    const std::string place = fmt::format("{}, thing {}", where, out.things.size() + 1);
    if (out.things.size() >= mostThings) {
      fields.wrong("things", fmt::format("are more than {}", mostThings), "the others were left out");
      break;
    }
    readOrLeaveOut(mended, [&] {
      Thing thing = thingFromJson(each, place);
      if (!ids.insert(thing.id).second) throw badInput(fmt::format("{}: there are two \"{}\".", place, thing.id));
      out.things.push_back(std::move(thing));
    });
  }
  if (fields.has("eye")) readOrLeaveOut(mended, [&] { out.eye = eyeFromJson(fields.child("eye"), where + ", eye"); });
  if (fields.has("light"))
    readOrLeaveOut(mended, [&] {
      JsonFields light(fields.child("light"), where + ", light");
      SceneLight made;
      read(light, {{"from", &made.from, -3600, 3600},
                   {"height", &made.height, 2, 90},
                   {"strength", &made.strength, 0, 1},
                   {"soft", &made.soft, 0, 1},
                   {"bounce", &made.bounce, 0, 1}});
      light.refuseOthers();
      out.light = made;
    });
  if (fields.has("shots"))
    for (const auto& each : fields.list("shots")) {
      if (out.shots.size() >= mostShots) break;
      const std::string place = fmt::format("{}, shot {}", where, out.shots.size() + 1);
      readOrLeaveOut(mended, [&] {
        JsonFields shot(each, place);
        Shot made{fittedText(shot.text("name", ""), longestName), eyeFromJson(shot.child("eye"), place)};
        shot.refuseOthers();
        out.shots.push_back(std::move(made));
      });
    }
  out.ground = fields.flag("ground", true);
  fields.refuseOthers();
  return out;
}

}  // namespace hscaffold::stage
