#include "core/networks/check_graph.h"

#include <fmt/format.h>
#include <onnx/onnx_pb.h>

#include <algorithm>
#include <cstdint>
#include <iterator>
#include <map>
#include <optional>
#include <set>
#include <string_view>

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

void checkTensor(const onnx::TensorProto& tensor, const std::string& where) {
  if (tensor.data_location() == onnx::TensorProto::EXTERNAL)
    throw badInput(where + " keeps its weights in another file; save it as one file.");
  const auto said = numbersIn(tensor), given = numbersGiven(tensor);
  if (!said) throw badInput(fmt::format("{}: the weights \"{}\" have a shape that cannot be.", where, tensor.name()));
  if (given && *given != *said)
    throw badInput(fmt::format("{}: the weights \"{}\" should be {} numbers, but there are {}.", where, tensor.name(),
                               *said, *given));
}

/// Every part is made before it is used, and once: so there are no circles. (ONNX IR, "Graphs".)
void checkOrder(const onnx::GraphProto& graph, const std::string& where) {
  std::set<std::string> made = {""};  // what may be left out
  for (const auto& input : graph.input()) made.insert(input.name());
  for (const auto& tensor : graph.initializer()) made.insert(tensor.name());
  for (int i = 0; i < graph.node_size(); ++i) {
    const onnx::NodeProto& node = graph.node(i);
    for (const std::string& name : node.input())
      if (!made.contains(name))
        throw badInput(fmt::format("{}: {} uses \"{}\", which is not made before it.", where, nameOf(node, i), name));
    for (const std::string& name : node.output())
      if (!name.empty() && !made.insert(name).second)
        throw badInput(fmt::format("{}: {} makes \"{}\", which is there already.", where, nameOf(node, i), name));
  }
  for (const auto& output : graph.output())
    if (output.name().empty() || !made.contains(output.name()))
      throw badInput(fmt::format("{}: its answer \"{}\" is made by none of its parts.", where, output.name()));
}

}  // namespace

std::string partNotKnown(const onnx::GraphProto& graph) {
  // Operators of ONNX that the library reads.
  static constexpr std::string_view known[] = {"Abs",
                                               "Add",
                                               "And",
                                               "ArgMax",
                                               "ArgMin",
                                               "AveragePool",
                                               "BatchNormalization",
                                               "Cast",
                                               "Ceil",
                                               "Celu",
                                               "Clip",
                                               "Concat",
                                               "Constant",
                                               "ConstantOfShape",
                                               "Conv",
                                               "ConvTranspose",
                                               "Cos",
                                               "CumSum",
                                               "DepthToSpace",
                                               "Div",
                                               "Dropout",
                                               "Elu",
                                               "Equal",
                                               "Erf",
                                               "Exp",
                                               "Expand",
                                               "Flatten",
                                               "Floor",
                                               "GRU",
                                               "Gather",
                                               "Gemm",
                                               "GlobalAveragePool",
                                               "GlobalMaxPool",
                                               "Greater",
                                               "HardSigmoid",
                                               "HardSwish",
                                               "Identity",
                                               "InstanceNormalization",
                                               "LRN",
                                               "LSTM",
                                               "LeakyRelu",
                                               "Less",
                                               "Log",
                                               "LogSoftmax",
                                               "LpNormalization",
                                               "MatMul",
                                               "Max",
                                               "MaxPool",
                                               "MaxUnpool",
                                               "Mean",
                                               "Min",
                                               "Mish",
                                               "Mul",
                                               "Neg",
                                               "PRelu",
                                               "Pad",
                                               "Pow",
                                               "Reciprocal",
                                               "ReduceMax",
                                               "ReduceMean",
                                               "ReduceSum",
                                               "Relu",
                                               "Reshape",
                                               "Resize",
                                               "Round",
                                               "Selu",
                                               "Shape",
                                               "Sigmoid",
                                               "Sign",
                                               "Sin",
                                               "Slice",
                                               "Softmax",
                                               "Softplus",
                                               "Softsign",
                                               "SpaceToDepth",
                                               "Split",
                                               "Sqrt",
                                               "Squeeze",
                                               "Sub",
                                               "Sum",
                                               "Tanh",
                                               "Transpose",
                                               "Unsqueeze",
                                               "Upsample"};
  for (int i = 0; i < graph.node_size(); ++i) {
    const std::string& type = graph.node(i).op_type();
    if (std::find(std::begin(known), std::end(known), type) == std::end(known)) return nameOf(graph.node(i), i);
  }
  return {};
}

void checkGraph(const onnx::GraphProto& graph, const std::string& where) {
  constexpr int mostParts = 20'000;
  if (graph.node_size() > mostParts) throw badInput(fmt::format("{} has more than {} parts.", where, mostParts));
  checkOrder(graph, where);
  std::map<std::string, const onnx::TensorProto*> constants;
  for (const auto& tensor : graph.initializer()) {
    checkTensor(tensor, where);
    constants[tensor.name()] = &tensor;
  }
  for (int i = 0; i < graph.node_size(); ++i) {
    const onnx::NodeProto& node = graph.node(i);
    for (const auto& attribute : node.attribute()) {
      const std::string& name = attribute.name();
      if (attribute.has_t()) checkTensor(attribute.t(), where);
      if (attribute.has_g() || attribute.graphs_size() > 0)
        throw badInput(
            fmt::format("{}: {} has a network inside; loops and branches are not known here.", where, nameOf(node, i)));
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
