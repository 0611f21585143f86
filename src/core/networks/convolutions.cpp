#include "core/networks/convolutions.h"

#include <omp.h>
#include <onnx/onnx_pb.h>

#include <algorithm>
#include <array>
#include <cstddef>
#include <dnnl.hpp>
#include <map>
#include <memory>
#include <mutex>
#include <opencv2/dnn.hpp>
#include <opencv2/dnn/all_layers.hpp>
#include <opencv2/dnn/layer.details.hpp>
#include <string>
#include <vector>

namespace hscaffold::networks {
namespace {

const char* const ours = "ScaffoldConvolution";

thread_local const StopToken* stopOfThread = nullptr;

using dnnl::memory;

const dnnl::engine& processor() {
  static const dnnl::engine one(dnnl::engine::kind::cpu, 0);
  return one;
}

memory::desc plain(const std::vector<int>& shape) {
  const memory::dims dims(shape.begin(), shape.end());
  using tag = memory::format_tag;
  return {dims, memory::data_type::f32, dims.size() == 1 ? tag::a : tag::abcd};
}

/// One convolution at one size of its input.
struct Prepared {
  std::vector<int> input;
  bool rectified = false;
  dnnl::convolution_forward::primitive_desc about;
  dnnl::convolution_forward run;
  memory weights;
  dnnl::reorder in, out;
};

/// Room for one blob, shared by all convolutions of a thread: they run one after another.
class Room {
 public:
  memory of(const memory::desc& what) {
    constexpr std::size_t aligned = 64;
    const std::size_t bytes = what.get_size() + aligned;
    if (bytes > bytes_.size()) bytes_.resize(bytes);
    void* at = bytes_.data();
    std::size_t left = bytes_.size();
    return {what, processor(), std::align(aligned, what.get_size(), at, left)};
  }

 private:
  std::vector<std::byte> bytes_;
};

class Convolution : public cv::dnn::Layer {
 public:
  static cv::Ptr<cv::dnn::Layer> create(cv::dnn::LayerParams& params) { return cv::makePtr<Convolution>(params); }

  explicit Convolution(const cv::dnn::LayerParams& params) {
    setParamsFrom(params);
    const auto pair = [&](const char* key, int otherwise) {
      std::array<int, 2> out{otherwise, otherwise};
      if (params.has(key))
        for (int i = 0; i < 2; ++i) out[static_cast<std::size_t>(i)] = params.get(key).getIntValue(i);
      return out;
    };
    stride_ = pair("stride", 1);
    pad_ = pair("pad", 0);
    const cv::Mat& weights = blobs.at(0);
    shape_ = {weights.size[0], weights.size[1], weights.size[2], weights.size[3]};
    offsets_.resize(static_cast<std::size_t>(shape_[0]));
    if (blobs.size() > 1) std::copy_n(blobs[1].ptr<float>(), shape_[0], offsets_.begin());
  }

  bool getMemoryShapes(const std::vector<cv::dnn::MatShape>& inputs, const int, std::vector<cv::dnn::MatShape>& outputs,
                       std::vector<cv::dnn::MatShape>&) const override {
    if (inputs.size() != 1 || inputs[0].size() != 4 || inputs[0][1] != shape_[1])
      CV_Error(cv::Error::StsUnmatchedSizes, "a convolution of other channels");
    outputs.assign(1, outputFor(inputs[0]));
    return false;
  }

  /// A rectifier behind it is computed with it.
  bool setActivation(const cv::Ptr<cv::dnn::ActivationLayer>& layer) override {
    const auto relu = layer.dynamicCast<cv::dnn::ReLULayer>();
    rectified_ = !relu.empty() && relu->negativeSlope == 0;
    return rectified_;
  }

  void unsetAttached() override { rectified_ = false; }

  void forward(cv::InputArrayOfArrays given, cv::OutputArrayOfArrays made, cv::OutputArrayOfArrays) override try {
    if (stopOfThread != nullptr) throwIfStopped(*stopOfThread);
    std::vector<cv::Mat> inputs, outputs;
    given.getMatVector(inputs);
    made.getMatVector(outputs);
    const cv::Mat& input = inputs.at(0);
    if (outputs.at(0).total() == 0) CV_Error(cv::Error::StsUnmatchedSizes, "an input smaller than a convolution");
    Prepared& now = preparedFor({input.size[0], input.size[1], input.size[2], input.size[3]});
    // On the thread that asks: whoever has many looks runs them side by side, and OpenMP's threads wait for each other
    // by spinning, which costs twenty times as much as it gains where the cores have something else to do.
    omp_set_num_threads(1);
    dnnl::stream stream(processor());
    memory from(plain(now.input), processor(), input.data),
        to(plain(outputFor(now.input)), processor(), outputs.at(0).data);
    static thread_local Room before, behind;
    memory source = before.of(now.about.src_desc()), target = behind.of(now.about.dst_desc());
    now.in.execute(stream, from, source);
    now.run.execute(stream, {{DNNL_ARG_SRC, source},
                             {DNNL_ARG_WEIGHTS, now.weights},
                             {DNNL_ARG_BIAS, memory(plain({shape_[0]}), processor(), offsets_.data())},
                             {DNNL_ARG_DST, target}});
    now.out.execute(stream, target, to);
    stream.wait();
  } catch (const dnnl::error& error) {
    CV_Error(cv::Error::StsError, error.what());
  }

 private:
  /// While a network is read its sizes are not known yet, and may be 0.
  [[nodiscard]] std::vector<int> outputFor(const std::vector<int>& input) const {
    const auto along = [&](std::size_t d) {
      return std::max(0, input[2 + d] + 2 * pad_[d] - shape_[2 + d] + stride_[d]) / stride_[d];
    };
    return {input[0], shape_[0], along(0), along(1)};
  }

  Prepared& preparedFor(std::vector<int> input) {
    constexpr std::size_t most = 8;  // sizes at which figures are looked for
    const auto at = std::find_if(prepared_.begin(), prepared_.end(), [&](const Prepared& each) {
      return each.input == input && each.rectified == rectified_;
    });
    if (at != prepared_.end()) return *at;
    if (prepared_.size() >= most) prepared_.erase(prepared_.begin());
    Prepared out;
    const auto any = [](const std::vector<int>& shape) {
      return memory::desc(memory::dims(shape.begin(), shape.end()), memory::data_type::f32, memory::format_tag::any);
    };
    const auto pads = memory::dims{pad_[0], pad_[1]};
    const dnnl::convolution_forward::desc what(dnnl::prop_kind::forward_inference, dnnl::algorithm::convolution_direct,
                                               any(input), any(shape_), plain({shape_[0]}), any(outputFor(input)),
                                               memory::dims{stride_[0], stride_[1]}, pads, pads);
    dnnl::primitive_attr with;
    if (rectified_) {
      dnnl::post_ops after;
      after.append_eltwise(1, dnnl::algorithm::eltwise_relu, 0, 0);
      with.set_post_ops(after);
    }
    out.about = {what, with, processor()};
    out.run = dnnl::convolution_forward(out.about);
    out.in = dnnl::reorder({processor(), plain(input), processor(), out.about.src_desc()});
    out.out = dnnl::reorder({processor(), out.about.dst_desc(), processor(), plain(outputFor(input))});
    // Most sizes want the weights in one order.
    const auto same = std::find_if(prepared_.begin(), prepared_.end(), [&](const Prepared& each) {
      return each.about.weights_desc() == out.about.weights_desc();
    });
    if (same != prepared_.end()) {
      out.weights = same->weights;
    } else {
      dnnl::stream stream(processor());
      memory weights(plain(shape_), processor(), blobs[0].data);
      out.weights = memory(out.about.weights_desc(), processor());
      dnnl::reorder(weights, out.weights).execute(stream, weights, out.weights);
      stream.wait();
    }
    out.rectified = rectified_;
    out.input = std::move(input);
    return prepared_.emplace_back(std::move(out));
  }

  std::array<int, 2> stride_{1, 1}, pad_{0, 0};
  std::vector<int> shape_;  ///< outputs, inputs, height, width
  std::vector<float> offsets_;
  bool rectified_ = false;
  std::vector<Prepared> prepared_;
};

void registerOnce() {
  static std::once_flag once;
  std::call_once(once, [] { cv::dnn::LayerFactory::registerLayer(ours, &Convolution::create); });
}

/// Whether it is one that is computed here. @param constants  names of what is in the graph, with how many dimensions
bool isPlain(const onnx::NodeProto& node, const std::map<std::string, int>& constants) {
  if (node.op_type() != "Conv" || node.input_size() < 2 || node.input_size() > 3) return false;
  const auto has = [&](int input, int dimensions) {
    const auto at = constants.find(node.input(input));
    return at != constants.end() && at->second == dimensions;
  };
  if (!has(1, 4) || (node.input_size() > 2 && !has(2, 1))) return false;
  for (const auto& attribute : node.attribute()) {
    const auto& numbers = attribute.ints();
    const auto& name = attribute.name();
    const bool ones = std::all_of(numbers.begin(), numbers.end(), [](auto n) { return n == 1; });
    if (name == "auto_pad" && attribute.s() != "NOTSET") return false;
    if (name == "group" && attribute.i() != 1) return false;
    if (name == "dilations" && !ones) return false;
    if ((name == "kernel_shape" || name == "strides") && numbers.size() != 2) return false;
    if (name == "pads" && (numbers.size() != 4 || numbers[0] != numbers[2] || numbers[1] != numbers[3])) return false;
  }
  return true;
}

}  // namespace

StopsConvolutions::StopsConvolutions(const StopToken& stop) { stopOfThread = &stop; }
StopsConvolutions::~StopsConvolutions() { stopOfThread = nullptr; }

void takeConvolutions(onnx::GraphProto& graph) {
  registerOnce();
  std::map<std::string, int> constants;
  for (const auto& tensor : graph.initializer())
    if (tensor.data_type() == onnx::TensorProto::FLOAT) constants[tensor.name()] = tensor.dims_size();
  for (auto& node : *graph.mutable_node())
    if (isPlain(node, constants)) node.set_op_type(ours);
}

}  // namespace hscaffold::networks
