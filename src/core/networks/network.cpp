#include "core/networks/network.h"

#include <fmt/format.h>
#include <onnx/onnx_pb.h>

#include <algorithm>
#include <opencv2/core/utils/logger.hpp>
#include <opencv2/dnn.hpp>

#include "core/networks/check_graph.h"
#include "core/networks/convolutions.h"

namespace hscaffold::networks {
namespace {

constexpr std::size_t mostMemory = std::size_t{2} << 30;
constexpr std::size_t mostFile = std::size_t{1} << 30;

/// What the library has to say goes into sentences of ours, not to standard error as well.
void quieten() {
  static const bool once = [] {
    cv::utils::logging::setLogLevel(cv::utils::logging::LOG_LEVEL_SILENT);
    cv::redirectError([](int, const char*, const char*, const char*, int, void*) { return 0; });
    return true;
  }();
  static_cast<void>(once);
}

std::string lastLine(const cv::Exception& error) {
  std::string text = error.err;
  std::replace(text.begin(), text.end(), '\n', ' ');
  return text.size() > 160 ? text.substr(0, 160) + "..." : text;
}

void widen(onnx::TensorProto& tensor) {
  if (tensor.data_type() != onnx::TensorProto::FLOAT16) return;
  std::string halves = tensor.raw_data();
  if (halves.empty())
    for (const int bits : tensor.int32_data()) {
      halves.push_back(static_cast<char>(bits & 0xff));
      halves.push_back(static_cast<char>((bits >> 8) & 0xff));
    }
  const cv::Mat narrow(1, static_cast<int>(halves.size() / 2), CV_16F, halves.data());
  cv::Mat wide;
  narrow.convertTo(wide, CV_32F);
  tensor.clear_int32_data();
  tensor.set_data_type(onnx::TensorProto::FLOAT);
  tensor.set_raw_data(wide.data, wide.total() * sizeof(float));
}

void widen(onnx::ValueInfoProto& value) {
  if (value.has_type() && value.type().has_tensor_type() &&
      value.type().tensor_type().elem_type() == onnx::TensorProto::FLOAT16)
    value.mutable_type()->mutable_tensor_type()->set_elem_type(onnx::TensorProto::FLOAT);
}

/// The library computes with 32-bit floats only.
void widen(onnx::GraphProto& graph) {
  for (auto& tensor : *graph.mutable_initializer()) widen(tensor);
  for (auto& value : *graph.mutable_input()) widen(value);
  for (auto& value : *graph.mutable_output()) widen(value);
  for (auto& value : *graph.mutable_value_info()) widen(value);
  for (auto& node : *graph.mutable_node())
    for (auto& attribute : *node.mutable_attribute()) {
      if (attribute.has_t()) widen(*attribute.mutable_t());
      if (node.op_type() == "Cast" && attribute.name() == "to" && attribute.i() == onnx::TensorProto::FLOAT16)
        attribute.set_i(onnx::TensorProto::FLOAT);
    }
}

}  // namespace

struct Network::Inside {
  cv::dnn::Net net;
  std::vector<cv::String> outputs;
  std::string where;
};

Network::Network(std::span<const std::byte> file, std::string where) : inside_(std::make_unique<Inside>()) {
  quieten();
  inside_->where = std::move(where);
  onnx::ModelProto model;
  if (file.empty() || file.size() > mostFile || !model.ParseFromArray(file.data(), static_cast<int>(file.size())) ||
      model.graph().node().empty())
    throw badInput(inside_->where + " is no network in the ONNX format, or is cut off.");
  for (const auto& tensor : model.graph().initializer())
    if (tensor.data_location() == onnx::TensorProto::EXTERNAL)
      throw badInput(inside_->where + " keeps its weights in another file; save it as one file.");
  checkGraph(model.graph(), inside_->where);
  widen(*model.mutable_graph());
  takeConvolutions(*model.mutable_graph());
  const std::string wide = model.SerializeAsString();
  try {
    inside_->net = cv::dnn::readNetFromONNX(wide.data(), wide.size());
    inside_->net.setPreferableBackend(cv::dnn::DNN_BACKEND_OPENCV);
    for (const auto& output : model.graph().output()) inside_->outputs.push_back(output.name());
  } catch (const cv::Exception& error) {
    throw badInput(fmt::format("{} cannot be computed here: {}", inside_->where, lastLine(error)));
  }
  if (inside_->net.empty() || inside_->outputs.empty()) throw badInput(inside_->where + " is an empty network.");
}

Network::~Network() = default;
Network::Network(Network&&) noexcept = default;
Network& Network::operator=(Network&&) noexcept = default;

std::vector<Tensor> Network::run(const Tensor& input) {
  try {
    std::size_t weights = 0, blobs = 0;
    inside_->net.getMemoryConsumption(cv::dnn::MatShape(input.shape.begin(), input.shape.end()), weights, blobs);
    if (weights + blobs > mostMemory)
      throw badInput(fmt::format("{} would need {:.1f} GiB of memory at this size; 2 are allowed.", inside_->where,
                                 static_cast<double>(weights + blobs) / (1 << 30)));
    const cv::Mat in(input.shape, CV_32F, const_cast<float*>(input.values.data()));
    inside_->net.setInput(in);
    std::vector<cv::Mat> made;
    inside_->net.forward(made, inside_->outputs);
    std::vector<Tensor> out;
    for (const cv::Mat& each : made) {
      if (each.type() != CV_32F) throw badInput(inside_->where + " does not answer with numbers.");
      Tensor tensor;
      for (int d = 0; d < each.dims; ++d) tensor.shape.push_back(each.size[d]);
      tensor.values.assign(each.ptr<float>(), each.ptr<float>() + each.total());
      out.push_back(std::move(tensor));
    }
    return out;
  } catch (const cv::Exception& error) {
    throw badInput(fmt::format("{} could not be computed: {}", inside_->where, lastLine(error)));
  } catch (const std::bad_alloc&) {
    throw failed(inside_->where + " needs more memory than there is.");
  }
}

}  // namespace hscaffold::networks
