/// Networks from ONNX files (onnx.ai), run by OpenCV's dnn module: a first guess of depth, figures found in pictures.
/// Weights kept as 16-bit floats are widened when they are read. Nothing is fetched; a file is only computed with.
#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {
class JsonFields;
}

namespace hscaffold::networks {

/// Numbers in rows of `shape.back()`.
struct Tensor {
  std::vector<int> shape;
  std::vector<float> values;
};

/// How a picture is brought to a network.
struct InputForm {
  enum class Channels { rgb, bgr, light };
  Size size;  ///< sides 8 to 2048
  Channels channels = Channels::rgb;
  /// Of sRGB-encoded values in [0, 1]: (v - mean) / deviation, a channel each; of light the first.
  float mean[3] = {0, 0, 0}, deviation[3] = {1, 1, 1};
};

/// H x W reduced or enlarged to the form's size without keeping the ratio; 1 x C x H x W.
/// @param picture  linear RGB.
Tensor inputFrom(View<Rgb> picture, const InputForm& form);

/// Not for two threads at once.
class Network {
 public:
  /// @param where  for messages: a file name.
  /// @throws Problem (badInput) if it is no ONNX network, is cut off, or has layers that cannot be computed here
  Network(std::span<const std::byte> onnx, std::string where);
  ~Network();
  Network(Network&&) noexcept;
  Network& operator=(Network&&) noexcept;

  /// Its outputs, in the file's order. Stopped, it comes back at once: what is being computed is left to end by itself,
  /// and the network is read again when it is asked the next time.
  /// @throws Problem (badInput) if the input does not suit it, or it asks for more than 2 GiB or `mostWork`; Cancelled
  std::vector<Tensor> run(const Tensor& input, const StopToken& stop = {});
  static constexpr std::int64_t mostWork = 4'000'000'000'000;  ///< operations of one answer: some minutes

 private:
  struct Inside;
  std::shared_ptr<const std::vector<std::byte>> file_;
  std::string where_;
  std::shared_ptr<Inside> inside_;  ///< null: to be read again
};

/// The description beside a network: NAME.json for NAME.onnx. @throws Problem (badInput) if there is none
std::string descriptionBeside(const std::filesystem::path& onnx);
/// {"width", "height", "channels": "rgb" | "bgr" | "light", "mean": [...], "deviation": [...]}: all but the sizes may
/// be left out. @param fields  asked for these names only. @throws Problem (badInput)
InputForm inputFormFrom(JsonFields& fields, const std::string& where);

}  // namespace hscaffold::networks
