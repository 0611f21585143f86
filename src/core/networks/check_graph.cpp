#include "core/networks/check_graph.h"

#include <fmt/format.h>
#include <onnx/onnx_pb.h>

#include <cstdint>
#include <map>
#include <optional>

#include "core/problem.h"

namespace hscaffold::networks {
namespace {

constexpr std::int64_t mostNumbers = std::int64_t{1} << 30;

/// Empty where the shape makes no sense.
std::optional<std::int64_t> numbersIn(const onnx::TensorProto& tensor) {
  std::int64_t count = 1;
  for (const std::int64_t side : tensor.dims()) {
    if (side < 0 || (side > 0 && count > mostNumbers / side)) return {};
    count *= side;
  }
  return count;
}

/// How many numbers its data have; empty for kinds of numbers that are not looked into.
std::optional<std::int64_t> numbersGiven(const onnx::TensorProto& tensor) {
  const auto raw = [&](std::size_t each) { return static_cast<std::int64_t>(tensor.raw_data().size() / each); };
  switch (tensor.data_type()) {
    case onnx::TensorProto::FLOAT:
      return tensor.raw_data().empty() ? tensor.float_data_size() : raw(sizeof(float));
    case onnx::TensorProto::FLOAT16:
      return tensor.raw_data().empty() ? tensor.int32_data_size() : raw(2);
    case onnx::TensorProto::DOUBLE:
      return tensor.raw_data().empty() ? tensor.double_data_size() : raw(sizeof(double));
    case onnx::TensorProto::INT32:
      return tensor.raw_data().empty() ? tensor.int32_data_size() : raw(sizeof(std::int32_t));
    case onnx::TensorProto::INT64:
      return tensor.raw_data().empty() ? tensor.int64_data_size() : raw(sizeof(std::int64_t));
    default:
      return {};
  }
}

std::string nameOf(const onnx::NodeProto& node, int number) {
  return node.name().empty() ? fmt::format("part {} ({})", number + 1, node.op_type())
                             : fmt::format("\"{}\" ({})", node.name(), node.op_type());
}

}  // namespace

void checkGraph(const onnx::GraphProto& graph, const std::string& where) {
  std::map<std::string, const onnx::TensorProto*> constants;
  for (const auto& tensor : graph.initializer()) {
    const auto said = numbersIn(tensor), given = numbersGiven(tensor);
    if (!said) throw badInput(fmt::format("{}: the weights \"{}\" have a shape that cannot be.", where, tensor.name()));
    if (given && *given != *said)
      throw badInput(fmt::format("{}: the weights \"{}\" should be {} numbers, but there are {}.", where, tensor.name(),
                                 *said, *given));
    constants[tensor.name()] = &tensor;
  }
  for (int i = 0; i < graph.node_size(); ++i) {
    const onnx::NodeProto& node = graph.node(i);
    for (const auto& attribute : node.attribute()) {
      const std::string& name = attribute.name();
      const bool counts = name == "strides" || name == "kernel_shape" || name == "dilations";
      for (const std::int64_t value : attribute.ints())
        if (counts && (value < 1 || value > 4096))
          throw badInput(fmt::format("{}: {} has {} of {}.", where, nameOf(node, i), name, value));
      if (name == "group" && (attribute.i() < 1 || attribute.i() > mostNumbers))
        throw badInput(fmt::format("{}: {} has {} groups.", where, nameOf(node, i), attribute.i()));
    }
    if (node.op_type() != "Conv" || node.input_size() < 3) continue;
    const auto weights = constants.find(node.input(1)), offsets = constants.find(node.input(2));
    if (weights == constants.end() || offsets == constants.end() || weights->second->dims_size() < 1) continue;
    if (const auto count = numbersIn(*offsets->second); count && *count != weights->second->dims(0))
      throw badInput(fmt::format("{}: {} has {} outputs, but offsets for {}.", where, nameOf(node, i),
                                 weights->second->dims(0), *count));
  }
}

}  // namespace hscaffold::networks
