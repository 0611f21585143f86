#include "core/networks/network.h"

#include <fmt/format.h>
#include <onnx/onnx_pb.h>

#include <algorithm>
#include <atomic>
#include <condition_variable>
#include <exception>
#include <mutex>
#include <opencv2/core/utils/logger.hpp>
#include <opencv2/dnn.hpp>
#include <thread>

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

std::string shapeText(const std::vector<int>& shape) { return fmt::format("{}", fmt::join(shape, " x ")); }

/// Threads whose answer nobody waits for any more; at the end of the program they are.
class Abandoned {
 public:
  using Ended = std::shared_ptr<std::atomic<bool>>;
  ~Abandoned() {
    for (auto& [thread, ended] : threads_) thread.join();
  }
  void take(std::thread thread, Ended ended) {
    const std::lock_guard lock(mutex_);
    std::erase_if(threads_, [](auto& each) {
      if (!*each.second) return false;
      each.first.join();
      return true;
    });
    threads_.emplace_back(std::move(thread), std::move(ended));
  }
  static Abandoned& all() {
    static Abandoned one;
    return one;
  }

 private:
  std::mutex mutex_;
  std::vector<std::pair<std::thread, Ended>> threads_;
};

}  // namespace

struct Network::Inside {
  Inside(std::span<const std::byte> file, const std::string& name);
  std::vector<Tensor> answer(const Tensor& input, const StopToken& stop);

 private:
  void checkSize(const Tensor& input) const;

  cv::dnn::Net net_;
  std::vector<cv::String> outputs_;
  std::string where_;
};

Network::Inside::Inside(std::span<const std::byte> file, const std::string& name) : where_(name) {
  onnx::ModelProto model;
  if (file.empty() || file.size() > mostFile || !model.ParseFromArray(file.data(), static_cast<int>(file.size())) ||
      model.graph().node().empty())
    throw badInput(where_ + " is no network in the ONNX format, or is cut off.");
  checkGraph(model.graph(), where_);
  const std::string unknown = partNotKnown(model.graph());
  if (!unknown.empty())
    throw badInput(fmt::format("{} cannot be computed here: {} is of a kind that is not known.", where_, unknown));
  widen(*model.mutable_graph());
  takeConvolutions(*model.mutable_graph());
  const std::string wide = model.SerializeAsString();
  try {
    net_ = cv::dnn::readNetFromONNX(wide.data(), wide.size());
    net_.setPreferableBackend(cv::dnn::DNN_BACKEND_OPENCV);
    for (const auto& output : model.graph().output()) outputs_.push_back(output.name());
  } catch (const std::exception&) {
    throw badInput(where_ +
                   " cannot be computed here: its parts do not fit each other, or have settings that are not known.");
  }
  if (net_.empty() || outputs_.empty()) throw badInput(where_ + " is an empty network.");
}

/// All that is made on the way is looked at before anything is computed; in numbers that do not wrap.
void Network::Inside::checkSize(const Tensor& input) const {
  std::vector<int> ids;
  std::vector<std::vector<cv::dnn::MatShape>> in, out;
  const cv::dnn::MatShape shape(input.shape.begin(), input.shape.end());
  net_.getLayersShapes(shape, ids, in, out);
  std::size_t bytes = 0;
  for (const auto& layer : out)
    for (const auto& made : layer) {
      std::size_t numbers = 1;
      for (const int side : made) {
        if (side < 1) throw badInput(fmt::format("{} does not fit an input of {}.", where_, shapeText(input.shape)));
        numbers *= static_cast<std::size_t>(side);
        if (numbers > mostMemory) break;
      }
      bytes += std::min(numbers, mostMemory) * sizeof(float);
    }
  if (bytes > mostMemory)
    throw badInput(fmt::format("{} would need {:.1f} GiB of memory at this size; 2 are allowed.", where_,
                               static_cast<double>(bytes) / (1 << 30)));
  if (const auto work = net_.getFLOPS(shape); work < 0 || work > mostWork)
    throw badInput(fmt::format("{} would compute for many minutes at this size; take a smaller one.", where_));
}

std::vector<Tensor> Network::Inside::answer(const Tensor& input, const StopToken& stop) {
  try {
    checkSize(input);
    const StopsConvolutions stops(stop);
    const cv::Mat in(input.shape, CV_32F, const_cast<float*>(input.values.data()));
    net_.setInput(in);
    std::vector<cv::Mat> made;
    net_.forward(made, outputs_);
    std::vector<Tensor> out;
    for (const cv::Mat& each : made) {
      if (each.type() != CV_32F) throw badInput(where_ + " does not answer with numbers.");
      Tensor tensor;
      for (int d = 0; d < each.dims; ++d) tensor.shape.push_back(each.size[d]);
      tensor.values.assign(each.ptr<float>(), each.ptr<float>() + each.total());
      out.push_back(std::move(tensor));
    }
    return out;
  } catch (const cv::Exception&) {
    throw badInput(fmt::format("{} does not fit an input of {}.", where_, shapeText(input.shape)));
  } catch (const std::bad_alloc&) {
    throw failed(where_ + " needs more memory than there is.");
  }
}

Network::Network(std::span<const std::byte> file, std::string where)
    : file_(std::make_shared<const std::vector<std::byte>>(file.begin(), file.end())), where_(std::move(where)) {
  quieten();
  inside_ = std::make_shared<Inside>(*file_, where_);
}

Network::~Network() = default;
Network::Network(Network&&) noexcept = default;
Network& Network::operator=(Network&&) noexcept = default;

std::vector<Tensor> Network::run(const Tensor& input, const StopToken& stop) {
  throwIfStopped(stop);
  if (!inside_) inside_ = std::make_shared<Inside>(*file_, where_);
  if (!stop.stop_possible()) return inside_->answer(input, stop);
  struct Answer {
    std::mutex mutex;
    std::condition_variable changed;
    bool done = false;
    std::vector<Tensor> made;
    std::exception_ptr wrong;
  };
  const auto answer = std::make_shared<Answer>();
  Abandoned::all();  // outlives the thread
  const auto ended = std::make_shared<std::atomic<bool>>(false);
  std::thread computes([answer, ended, inside = inside_, input, stop]() mutable {
    std::vector<Tensor> made;
    std::exception_ptr wrong;
    try {
      made = inside->answer(input, stop);
    } catch (...) {
      wrong = std::current_exception();
    }
    inside.reset();
    {
      const std::lock_guard lock(answer->mutex);
      answer->made = std::move(made);
      answer->wrong = wrong;
      answer->done = true;
      answer->changed.notify_all();
    }
    *ended = true;
  });
  bool done = false;
  {
    const std::stop_callback wakes(stop, [&answer] {
      const std::lock_guard waking(answer->mutex);
      answer->changed.notify_all();
    });
    std::unique_lock lock(answer->mutex);
    answer->changed.wait(lock, [&] { return answer->done || stop.stop_requested(); });
    done = answer->done;
  }
  if (!done) {
    inside_.reset();
    Abandoned::all().take(std::move(computes), ended);
    throw Cancelled();
  }
  computes.join();
  if (answer->wrong) std::rethrow_exception(answer->wrong);
  return std::move(answer->made);
}

}  // namespace hscaffold::networks
