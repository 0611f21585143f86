#include "core/networks/tiny_networks.h"

#include <bit>
#include <cstdint>

#include "fixtures.h"

namespace fixtures {
namespace {

void describe(onnx::ValueInfoProto& value, const char* name, std::initializer_list<int> shape) {
  value.set_name(name);
  auto& type = *value.mutable_type()->mutable_tensor_type();
  type.set_elem_type(onnx::TensorProto::FLOAT);
  for (const int side : shape) type.mutable_shape()->add_dim()->set_dim_value(side);
}

onnx::ModelProto model(int width, int height, int planes) {
  onnx::ModelProto out;
  out.set_ir_version(7);
  out.add_opset_import()->set_version(11);
  out.mutable_graph()->set_name("tiny");
  describe(*out.mutable_graph()->add_input(), "picture", {1, 3, height, width});
  describe(*out.mutable_graph()->add_output(), "answer", {1, planes, height, width});
  return out;
}

onnx::NodeProto& node(onnx::ModelProto& of, const std::string& name) {
  auto& out = *of.mutable_graph()->add_node();
  out.set_op_type(name);
  out.add_input("picture");
  out.add_output("answer");
  return out;
}

/// Of numbers that 16 bits hold exactly.
std::uint16_t half(float value) {
  if (value == 0) return 0;
  const auto bits = std::bit_cast<std::uint32_t>(value);
  const auto exponent = static_cast<int>((bits >> 23) & 0xff) - 127 + 15;
  return static_cast<std::uint16_t>(((bits >> 16) & 0x8000) | (static_cast<unsigned>(exponent) << 10) |
                                    ((bits >> 13) & 0x3ff));
}

}  // namespace

onnx::ModelProto weighing(int width, int height, const std::vector<std::vector<float>>& weights) {
  auto out = model(width, height, static_cast<int>(weights.size()));
  auto& kernel = *out.mutable_graph()->add_initializer();
  kernel.set_name("weights");
  kernel.set_data_type(onnx::TensorProto::FLOAT);
  for (const int side : {static_cast<int>(weights.size()), 3, 1, 1}) kernel.add_dims(side);
  for (const auto& row : weights)
    for (const float w : row) kernel.add_float_data(w);
  auto& layer = node(out, "Conv");
  layer.add_input("weights");
  auto& shape = *layer.add_attribute();
  shape.set_name("kernel_shape");
  shape.set_type(onnx::AttributeProto::INTS);
  shape.add_ints(1);
  shape.add_ints(1);
  return out;
}

onnx::ModelProto weighingInHalves(int width, int height, const std::vector<std::vector<float>>& weights) {
  auto out = weighing(width, height, weights);
  auto& kernel = *out.mutable_graph()->mutable_initializer(0);
  kernel.set_data_type(onnx::TensorProto::FLOAT16);
  std::string raw;
  for (const float w : kernel.float_data()) {
    raw.push_back(static_cast<char>(half(w) & 0xff));
    raw.push_back(static_cast<char>(half(w) >> 8));
  }
  kernel.clear_float_data();
  kernel.set_raw_data(raw);
  return out;
}

onnx::ModelProto convolving(int width, int height, const Convolving& how) {
  const auto along = [&](int side) { return (side + 2 - how.dilation * (how.kernel - 1) - 1) / how.stride + 1; };
  auto out = model(width, height, how.outputs);
  auto& answer = *out.mutable_graph()->mutable_output(0);
  answer.Clear();
  describe(answer, "answer", {1, how.outputs, along(height), along(width)});
  const auto constant = [&](const char* name, std::initializer_list<int> shape, const std::vector<float>& values) {
    auto& tensor = *out.mutable_graph()->add_initializer();
    tensor.set_name(name);
    tensor.set_data_type(onnx::TensorProto::FLOAT);
    for (const int side : shape) tensor.add_dims(side);
    for (const float v : values) tensor.add_float_data(v);
  };
  constant("weights", {how.outputs, 3, how.kernel, how.kernel}, how.weights);
  constant("offsets", {how.outputs}, how.offsets);
  auto& convolution = node(out, "Conv");
  convolution.add_input("weights");
  convolution.add_input("offsets");
  const auto numbers = [&](const char* name, int times, int value) {
    auto& attribute = *convolution.add_attribute();
    attribute.set_name(name);
    attribute.set_type(onnx::AttributeProto::INTS);
    for (int i = 0; i < times; ++i) attribute.add_ints(value);
  };
  numbers("kernel_shape", 2, how.kernel);
  numbers("strides", 2, how.stride);
  numbers("dilations", 2, how.dilation);
  numbers("pads", 4, 1);
  if (how.rectified) {
    convolution.set_output(0, "before");
    auto& relu = *out.mutable_graph()->add_node();
    relu.set_op_type("Relu");
    relu.add_input("before");
    relu.add_output("answer");
  }
  return out;
}

onnx::ModelProto layer(int width, int height, const std::string& name) {
  auto out = model(width, height, 3);
  node(out, name);
  return out;
}

std::filesystem::path writeNetwork(const std::filesystem::path& folder, const std::string& name,
                                   const onnx::ModelProto& model, const std::string& description) {
  writeFile(folder / (name + ".onnx"), model.SerializeAsString());
  if (!description.empty()) writeFile(folder / (name + ".json"), description);
  return folder / (name + ".onnx");
}

}  // namespace fixtures
