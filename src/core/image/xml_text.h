/// XML as text.
#pragma once

#include <pugixml.hpp>
#include <string>

namespace hscaffold {

/// UTF-8, as a rule indented by one space.
inline std::string textOf(const pugi::xml_document& document, unsigned format = pugi::format_indent) {
  struct Text : pugi::xml_writer {
    std::string all;
    void write(const void* data, std::size_t count) override { all.append(static_cast<const char*>(data), count); }
  } text;
  document.save(text, " ", format | pugi::format_save_file_text, pugi::encoding_utf8);
  return text.all;
}

}  // namespace hscaffold
