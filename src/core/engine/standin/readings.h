/// What was read out of maps lately: most cells of a sheet have the same ones.
#pragma once

#include <string>
#include <typeindex>

#include "core/image/image.h"
#include "core/kinds.h"
#include "core/recently_used.h"

namespace hscaffold::standin {

/// May be used by several threads.
class Readings {
 public:
  /// What `make` gives of a map at a layout's size: it must depend on nothing else.
  template <typename Reading, typename Make>
  std::shared_ptr<const Reading> of(View<std::uint16_t> map, Size size, const Make& make) {
    return std::static_pointer_cast<const Reading>(
        kept_.of({typeid(Reading), digestOf(map), size}, [&] { return std::make_shared<const Reading>(make()); }));
  }

 private:
  struct Key {
    std::type_index kind;
    std::string digest;
    Size size;
    friend bool operator==(const Key&, const Key&) = default;
  };
  RecentlyUsed<Key, void> kept_{8};
};

}  // namespace hscaffold::standin
