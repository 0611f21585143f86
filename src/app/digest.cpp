#include "app/digest.h"

#include <xxhash.h>

namespace hscaffold::app {

std::uint64_t Digest::value() const { return XXH3_64bits(bytes_.data(), bytes_.size()); }

}  // namespace hscaffold::app
