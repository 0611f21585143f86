// What commands read and write, and how they read words.
#include <fmt/format.h>
#include <unistd.h>

#include <charconv>
#include <filesystem>
#include <iostream>

#include "cli/commands.h"
#include "core/frame/frame.h"
#include "core/number_text.h"
#include "core/problem.h"

namespace hscaffold {

Bytes readInput(const std::string& in) {
  return in == "-" ? readAll(STDIN_FILENO, nameOfInput(in)) : readWholeFile(in);
}

void writeOutput(const std::string& out, std::span<const std::byte> content) {
  if (out == "-")
    std::cout.write(reinterpret_cast<const char*>(content.data()), static_cast<std::streamsize>(content.size()))
        .flush();  // whether that went well is asked at the end
  else
    writeFileAtomically(out, content);
}

std::string nameOfInput(const std::string& in) {
  return in == "-" ? "standard input" : std::filesystem::path(in).filename().string();
}

std::vector<double> parsedNumbers(const std::string& text, std::size_t count) {
  std::vector<double> numbers;
  for (std::size_t from = 0; from <= text.size();) {
    const std::size_t comma = std::min(text.find(',', from), text.size());
    const auto number = numberFrom(std::string_view(text).substr(from, comma - from));
    if (!number) return {};
    numbers.push_back(*number);
    from = comma + 1;
  }
  return numbers.size() == count ? numbers : std::vector<double>();
}

Size parsedSize(const std::string& text) {
  const auto cross = std::min(text.find('x'), text.size());
  const auto side = [](std::string_view digits) {
    int value = 0;
    const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
    const bool good =
        error == std::errc{} && end == digits.data() + digits.size() && value >= 1 && value <= largestSide;
    return good ? value : 0;
  };
  const std::string_view all = text;
  const Size size{side(all.substr(0, cross)), cross < all.size() ? side(all.substr(cross + 1)) : 0};
  if (size.width == 0 || size.height == 0)
    throw badInput(fmt::format("--size: \"{}\" is not a size like 768x512 with sides up to {}.", text, largestSide));
  return size;
}

}  // namespace hscaffold
