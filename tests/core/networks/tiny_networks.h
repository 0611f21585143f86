/// Networks of a layer or two that tests make themselves, as ONNX files.
#pragma once

#include <onnx/onnx_pb.h>

#include <filesystem>
#include <string>
#include <vector>

namespace fixtures {

/// Weighted sum of the input's channels: a 1 x 1 convolution without offset, one output plane a row of `weights`.
onnx::ModelProto weighing(int width, int height, const std::vector<std::vector<float>>& weights);
/// The same with its weights in 16 bits.
onnx::ModelProto weighingInHalves(int width, int height, const std::vector<std::vector<float>>& weights);
/// A convolution with offsets, padded by 1.
struct Convolving {
  int outputs = 4, kernel = 3, stride = 1, dilation = 1;
  bool rectified = false;                         ///< nothing below 0 comes out
  std::vector<float> weights = {}, offsets = {};  ///< outputs x 3 x kernel x kernel; outputs
};
onnx::ModelProto convolving(int width, int height, const Convolving& how);
/// The input through one layer of that name, which has no settings of its own.
onnx::ModelProto layer(int width, int height, const std::string& name);

/// NAME.onnx with NAME.json beside it. @return the path of the network
std::filesystem::path writeNetwork(const std::filesystem::path& folder, const std::string& name,
                                   const onnx::ModelProto& model, const std::string& description);

}  // namespace fixtures
