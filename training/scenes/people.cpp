#include "people.h"

#include <algorithm>

#include "core/pose/library.h"

namespace hscaffold::training {
namespace {

using stage::HairStyle;
using stage::Hat;
using stage::Held;

std::vector<const pose::NamedPose*> posesFor(const char* skeleton) {
  std::vector<const pose::NamedPose*> out;
  for (const auto& each : pose::housePoses())
    if (each.skeleton == skeleton) out.push_back(&each);
  return out;
}

std::size_t turnNamed(const pose::Skeleton& skeleton, const char* id) { return *skeleton.findTurn(id); }

/// Between two poses of the library, and away from both.
std::vector<double> anyPose(Dice& dice, const pose::Skeleton& skeleton, float strays, float free) {
  static const auto human = posesFor("human"), animal = posesFor("four-legged");
  const auto& poses = skeleton.id == "human" ? human : animal;
  const auto any = [&]() -> const pose::BodyPose& {
    return poses[static_cast<std::size_t>(dice.whole(0, static_cast<int>(poses.size()) - 1))]->pose;
  };
  pose::BodyPose pose =
      pose::blended(skeleton, any(), any(), static_cast<double>(dice.chance(0.5f) ? 0.0f : dice.between(0, 0.6f)));
  const bool wild = dice.chance(free);
  for (std::size_t t = 0; t < skeleton.turns.size(); ++t) {
    const auto& turn = skeleton.turns[t];
    const double range = std::min(turn.most - turn.least, 200.0);
    pose.angles[t] += static_cast<double>(dice.normal()) * range * static_cast<double>(strays);
    // Anything that joints allow, for some of the limbs.
    if (wild && turn.most - turn.least < 360 && dice.chance(0.6f))
      pose.angles[t] = turn.least + static_cast<double>(dice.even()) * (turn.most - turn.least);
  }
  return pose::withinLimits(skeleton, pose).angles;
}

Rgb anySkin(Dice& dice) {
  const float dark = dice.even();
  const Rgb light{0.72f, 0.48f, 0.36f}, deep{0.10f, 0.045f, 0.025f};
  Rgb out = light * (1 - dark) + deep * dark;
  // Painted people may be of any colour.
  if (dice.chance(0.06f)) out = dice.colour(0.05f, 0.8f);
  return out;
}

Held anyHeld(Dice& dice) {
  return dice.of({Held::staff, Held::blade, Held::bag, Held::parasol, Held::box, Held::ball, Held::torch, Held::staff});
}

stage::Hand anyHand(Dice& dice) {
  stage::Hand out;
  if (dice.chance(0.6f)) out.grip = static_cast<stage::Grip>(dice.whole(0, stage::grips - 1));
  out.bend = dice.chance(0.5f) ? dice.between(stage::leastWristBend, stage::mostWristBend) * dice.even() : 0.0f;
  return out;
}

stage::Clothes anyClothes(Dice& dice) {
  stage::Clothes out;
  out.skin = anySkin(dice);
  out.hair = dice.chance(0.75f) ? Rgb{0.05f, 0.03f, 0.02f} * dice.ratio(0.3f, 6) : dice.colour();
  out.top = dice.colour();
  out.legs = dice.chance(0.3f) ? out.top : dice.colour();
  out.skirt = dice.chance(0.5f) ? out.top : dice.colour();
  out.cloak = dice.colour();
  out.hat = dice.colour();
  out.shoes = dice.chance(0.7f) ? Rgb{0.04f, 0.03f, 0.02f} * dice.ratio(0.3f, 5) : dice.colour();
  out.held = dice.colour();
  out.hairStyle = dice.of({HairStyle::none, HairStyle::cropped, HairStyle::cropped, HairStyle::bob, HairStyle::lengthy,
                           HairStyle::lengthy, HairStyle::bun, HairStyle::tail, HairStyle::full});
  out.beard = dice.chance(0.15f);
  if (dice.chance(0.35f))
    out.headgear = dice.of({Hat::brimmed, Hat::cap, Hat::cone, Hat::hood, Hat::helmet, Hat::band});
  out.loose = dice.chance(0.4f) ? dice.between(0.2f, 1) : dice.between(0, 0.2f);
  out.sleeves = dice.chance(0.55f) ? dice.between(0.8f, 1) : dice.chance(0.5f) ? dice.between(0.1f, 0.5f) : 0.0f;
  if (out.sleeves > 0.5f && dice.chance(0.3f)) out.sleeveFlare = dice.between(0.2f, 1);
  out.trousers = dice.chance(0.6f) ? dice.between(0.85f, 1) : dice.chance(0.6f) ? dice.between(0.2f, 0.5f) : 0.05f;
  if (dice.chance(0.2f)) out.legFlare = dice.between(0.2f, 1);
  if (dice.chance(0.35f)) {
    out.skirtLength = dice.chance(0.5f) ? dice.between(0.7f, 1) : dice.between(0.2f, 0.6f);
    out.skirtFlare = dice.between(0.1f, 1);
  }
  if (dice.chance(0.15f)) out.cloakLength = dice.between(0.4f, 1.1f);
  out.belt = dice.chance(0.3f);
  out.scarf = dice.chance(0.15f);
  out.pack = dice.chance(0.10f);
  if (dice.chance(0.2f)) {
    out.stripes = 1;
    out.stripe = dice.colour();
  }
  if (dice.chance(0.20f)) out.left = anyHeld(dice);
  if (dice.chance(0.25f)) out.right = anyHeld(dice);
  return out;
}

}  // namespace

Rgb Dice::colour(float darkest, float lightest) {
  const float light = ratio(darkest, lightest), strength = even() * even();
  const float hue = 6 * even();
  const auto wave = [&](float shift) {
    return std::clamp(std::fabs(std::remainder(hue - shift, 6.0f)) - 1, 0.0f, 1.0f);
  };
  const auto mixed = [&](float of) { return std::min(1.0f, light * (1 - strength + 2 * strength * of)); };
  return {mixed(wave(0)), mixed(wave(2)), mixed(wave(4))};
}

stage::BodySpec anyone(Dice& dice, int around) {
  const auto& skeleton = pose::skeletonOf("human");
  stage::BodySpec out;
  out.around = around;
  out.angles = anyPose(dice, skeleton, 0.05f, 0.12f);
  out.angles[turnNamed(skeleton, "pelvis.turn")] =
      static_cast<double>(dice.chance(0.45f) ? 40 * dice.normal() : dice.between(-180, 180));
  // Some hang, tumble or lie across.
  if (dice.chance(0.06f)) {
    out.angles[turnNamed(skeleton, "pelvis.lean")] = static_cast<double>(dice.between(-180, 180));
    out.angles[turnNamed(skeleton, "pelvis.tilt")] = static_cast<double>(dice.between(-180, 180));
  }
  const bool child = dice.chance(0.12f);
  out.size = child ? dice.between(0.8f, 1.4f) : dice.between(1.5f, 1.95f);
  out.build.girth = dice.chance(0.2f) ? dice.between(1.2f, 1.7f) : dice.between(0.8f, 1.15f);
  out.build.shoulders = dice.between(0.85f, 1.25f);
  out.build.hips = dice.between(0.85f, 1.2f);
  out.build.belly = dice.chance(0.25f) ? dice.even() : 0.0f;
  out.build.bust = dice.chance(0.4f) ? dice.even() : 0.0f;
  out.build.muscle = dice.chance(0.4f) ? dice.even() : 0.0f;
  // Drawn people often have large heads.
  out.build.head = child                ? dice.between(1.15f, 1.5f)
                   : dice.chance(0.25f) ? dice.between(1.1f, 1.7f)
                                        : dice.between(0.9f, 1.1f);
  const float limbs = child ? dice.between(0.8f, 0.95f) : dice.between(0.9f, 1.1f), legs = dice.between(0.92f, 1.1f);
  for (const auto& bone : skeleton.bones) {
    const std::string& to = skeleton.points[bone.to].id;
    const auto is = [&](const char* part) { return to.find(part) != std::string::npos; };
    float scale = 1;
    if (is("shoulder")) scale = out.build.shoulders * (0.6f + 0.4f * out.build.girth);
    if (is("elbow") || is("wrist")) scale = limbs;
    if (is("knee") || is("ankle")) scale = limbs * legs;
    out.natural.push_back(bone.length * static_cast<double>(scale * out.size));
  }
  out.clothes = anyClothes(dice);
  out.left = anyHand(dice);
  out.right = anyHand(dice);
  out.level = dice.chance(0.6f);
  out.leftFoot = dice.chance(0.3f) ? dice.between(-15, 60) : dice.between(-5, 15);
  out.rightFoot = dice.chance(0.3f) ? dice.between(-15, 60) : dice.between(-5, 15);
  return out;
}

stage::AnimalSpec anyAnimal(Dice& dice, int around) {
  using stage::Animal;
  const auto& skeleton = pose::skeletonOf("four-legged");
  stage::AnimalSpec out;
  out.around = around;
  out.kind = dice.of({Animal::dog, Animal::dog, Animal::fox, Animal::horse, Animal::cow, Animal::cat});
  out.angles = anyPose(dice, skeleton, 0.05f, 0.06f);
  out.angles[turnNamed(skeleton, "croup.turn")] = static_cast<double>(dice.between(-180, 180));
  switch (out.kind) {
    case Animal::horse:
    case Animal::cow:
      out.size = dice.between(1.8f, 2.4f);
      break;
    case Animal::cat:
      out.size = dice.between(0.4f, 0.55f);
      break;
    default:
      out.size = dice.between(0.6f, 1.1f);
  }
  stage::AnimalBuild& build = out.build;
  const bool hoofed = out.kind == Animal::horse || out.kind == Animal::cow;
  for (float* length : {&build.legs, &build.muzzle}) *length = dice.ratio(0.65f, 1.3f);
  build.neck = hoofed ? dice.ratio(0.75f, 1.2f) : dice.ratio(0.45f, 1.1f);
  for (float* breadth : {&build.girth, &build.limbs, &build.head}) *breadth = dice.ratio(0.8f, 1.6f);
  if (dice.chance(0.15f)) build.head *= dice.ratio(1.2f, 1.8f);
  build.eyes = dice.ratio(0.8f, 2.5f);
  build.ears = dice.ratio(0.5f, 1.3f);
  build.tail = dice.chance(0.15f) ? dice.ratio(0.1f, 0.5f) : dice.ratio(0.6f, 1.4f);
  build.brush = dice.ratio(0.6f, 2);
  if (dice.chance(0.35f)) build.droop = dice.between(0.4f, 1);
  const Rgb brown{0.25f, 0.13f, 0.06f};
  out.coat = dice.chance(0.7f) ? brown * dice.ratio(0.1f, 3) : dice.colour();
  out.patch = dice.chance(0.5f) ? Rgb{0.7f, 0.66f, 0.6f} : out.coat * dice.ratio(0.3f, 1.5f);
  return out;
}

}  // namespace hscaffold::training
