/// A picture's look in words that the stand-in knows.
#pragma once

#include <string>
#include <vector>

#include "core/image/image.h"

namespace hscaffold::standin {

/// Its main colours, what covers most first, and how light and lively it is: "navy, ochre, dark, muted". Colours are
/// told by the nearest of the lexicon's (in OKLab); what covers less than an eighth is not told.
/// @return at most three colours and three more words; none for an empty picture
std::vector<std::string> lookInWords(View<Rgb8> picture);

}  // namespace hscaffold::standin
