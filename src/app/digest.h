/// Keys of what is kept: digests of everything it was made from, rather than texts put together anew.
#pragma once

#include <bit>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>

#include "core/frame/placement.h"

namespace hscaffold::app {

/// 64 bits (XXH3) from what is put in, in order; not for files.
class Digest {
 public:
  template <typename T>
  requires std::is_arithmetic_v<T> || std::is_enum_v<T> Digest& add(T value) {
    if constexpr (std::is_floating_point_v<T>)
      word(std::bit_cast<std::uint64_t>(static_cast<double>(value)));
    else
      word(static_cast<std::uint64_t>(value));
    return *this;
  }
  Digest& add(std::string_view text) {
    word(text.size());
    bytes_ += text;
    return *this;
  }
  Digest& add(Size size) { return add(size.width).add(size.height); }
  Digest& add(const Placement& p) {
    add(p.fit).add(p.x).add(p.y).add(p.scaleX).add(p.scaleY).add(p.turn).add(p.flipAcross).add(p.flipDown).add(p.fill);
    return add(p.fillColour.r).add(p.fillColour.g).add(p.fillColour.b);
  }
  Digest& add(const std::optional<Affine>& m) {
    add(m.has_value());
    if (m) add(m->a).add(m->b).add(m->c).add(m->d).add(m->e).add(m->f);
    return *this;
  }
  [[nodiscard]] std::uint64_t value() const;

 private:
  void word(std::uint64_t v) { bytes_.append(reinterpret_cast<const char*>(&v), sizeof v); }
  std::string bytes_;
};

}  // namespace hscaffold::app
