/// What prompt and seed alone would draw: a small grammar of sky, far band, middle band, ground, subject and light,
/// written into fields over the frame.
#pragma once

#include <array>
#include <optional>

#include "core/engine/standin/subjects.h"
#include "core/image/image.h"
#include "core/recently_used.h"

namespace hscaffold::standin {

/// The fields that the layout consists of; all of one size.
///   tone    light and shade about the part's own value, about [-1, 1]
///   depth   1 nearest, 0 farthest
///   accent  how far a place's colour leans to one side or the other of its part's, [-1, 1]
///   line    outline strength, [0, 1]
///   parts   membership in sky, far, middle, ground, subject; about [0, 1]
///   dab     how short strokes are: 0 as long as they like, 1 dabs this way and that, as of leaves
///   course  which way hatches and strokes should run: cosine and sine of twice the angle times how strongly, [-1, 1]
struct Fields {
  static constexpr std::size_t count = 4 + partCount + 3;
  static constexpr std::size_t courseX = count - 3, courseY = count - 2, dabs = count - 1;
  std::array<Image<float>, count> all;
  Image<float>& tone() { return all[0]; }
  Image<float>& depth() { return all[1]; }
  Image<float>& accent() { return all[2]; }
  Image<float>& line() { return all[3]; }
  Image<float>& part(std::size_t p) { return all[4 + p]; }
  Image<float>& dab() { return all[dabs]; }
  [[nodiscard]] const Image<float>& tone() const { return all[0]; }
  [[nodiscard]] const Image<float>& depth() const { return all[1]; }
  [[nodiscard]] const Image<float>& accent() const { return all[2]; }
  [[nodiscard]] const Image<float>& line() const { return all[3]; }
  [[nodiscard]] const Image<float>& part(std::size_t p) const { return all[4 + p]; }
  [[nodiscard]] const Image<float>& dab() const { return all[dabs]; }
  [[nodiscard]] Size size() const { return all[0].size(); }
  static Fields ofSize(Size size);
};

/// How strokes run on some stuff: the fields `course` and `dab` of it.
struct Handling {
  float courseX = 0, courseY = 0, dab = 0;
};

/// Where a thing lies, in shares of the frame, and where its upper part ends.
struct ThingPlace {
  float left = 0, right = 1, top = 0, bottom = 1;
  float upperEnds = 0.35f;  ///< share of its height
};

struct Composition {
  SubjectPlan subject;              ///< what would stand in it, whether it does or not
  float overcast = 0;               ///< how far the sky softens shadows, [0, 1]
  float horizon = 0.5f;             ///< share of the height
  float lightX = 0, lightY = 0;     ///< towards the light, in the picture
  float sunX = 0.5f, sunY = 0.3f;   ///< shares of the frame
  Handling things;                  ///< of what things are made of
  std::optional<ThingPlace> named;  ///< the thing whose parts are called by name, where guides say what lies where
  Fields fields;
  [[nodiscard]] Composition clone() const;
};

/// The place, still without its subject.
Composition compose(const Wishes& wishes, std::uint64_t seed, Size size);
/// Places that were composed lately: most cells of a sheet begin with the same one. May be used by several threads.
class Places {
 public:
  /// As `compose`.
  Composition composed(const Wishes& wishes, std::uint64_t seed, Size size);

 private:
  struct Key {
    Wishes wishes;
    std::uint64_t seed;
    Size size;
    friend bool operator==(const Key&, const Key&) = default;
  };
  RecentlyUsed<Key, Composition> kept_{6};
};

/// The subject put into a place, with its shadow.
Composition withSubject(const Composition& place, const SubjectPlan& subject);

}  // namespace hscaffold::standin
