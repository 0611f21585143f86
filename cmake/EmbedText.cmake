# Makes a C++ source that holds text files as string_views, so that programs carry their data with them.
# embed_text(OUTPUT FUNCTION FILE...): FUNCTION(name) returns the text of the file of that name, empty if there is none.
function(embed_text output function)
  set(body "")
  foreach(file ${ARGN})
    get_filename_component(name ${file} NAME)
    file(READ ${file} text)
    # A string literal holds at most 64 KiB portably: long texts become several, which the compiler joins.
    string(LENGTH "${text}" length)
    set(pieces "")
    set(at 0)
    while(at LESS length)
      string(SUBSTRING "${text}" ${at} 8000 piece)
      string(APPEND pieces "R\"text(${piece})text\"\n")
      math(EXPR at "${at} + 8000")
    endwhile()
    string(APPEND body "  if (name == \"${name}\") return std::string_view(${pieces});\n")
    set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${file})
  endforeach()
  file(CONFIGURE OUTPUT ${output} @ONLY CONTENT
"// Made by EmbedText.cmake.
#include <string_view>
namespace hscaffold {
std::string_view ${function}(std::string_view name);
std::string_view ${function}(std::string_view name) {
${body}  return {};
}
}  // namespace hscaffold
")
endfunction()
