/// Pictures in memory: `Image<T>` owns pixels, `View<T>` and `MutableView<T>` look at them.
///
/// Rows start on 64-byte boundaries, so `stride()` (in pixels) may exceed `width()`.
/// Images move; copying is asked for with `clone()`. Views stay valid as long as their image lives unmoved.
#pragma once

#include <algorithm>
#include <cassert>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <new>
#include <span>
#include <type_traits>
#include <utility>

namespace hscaffold {

/// Linear or sRGB-encoded colour, by context; [0, 1] unless said otherwise.
struct Rgb {
  float r = 0, g = 0, b = 0;
  friend bool operator==(const Rgb&, const Rgb&) = default;
  friend Rgb operator+(Rgb a, Rgb b) { return {a.r + b.r, a.g + b.g, a.b + b.b}; }
  friend Rgb operator-(Rgb a, Rgb b) { return {a.r - b.r, a.g - b.g, a.b - b.b}; }
  friend Rgb operator*(Rgb a, float s) { return {a.r * s, a.g * s, a.b * s}; }
  friend Rgb operator*(float s, Rgb a) { return a * s; }
};

/// sRGB-encoded, straight alpha, 16 bits a channel: what a decoded reference is kept as.
struct Rgba16 {
  std::uint16_t r = 0, g = 0, b = 0, a = 0xffff;
  friend bool operator==(const Rgba16&, const Rgba16&) = default;
};

/// sRGB-encoded, 8 bits a channel: what proofs and maps are written as.
struct Rgb8 {
  std::uint8_t r = 0, g = 0, b = 0;
  friend bool operator==(const Rgb8&, const Rgb8&) = default;
};

struct Size {
  int width = 0, height = 0;
  friend bool operator==(const Size&, const Size&) = default;
  [[nodiscard]] std::int64_t area() const { return std::int64_t{width} * height; }
};

/// Read-only (or, as `MutableView`, writable) window on pixels.
template <typename T>
class BasicView {
 public:
  BasicView() = default;
  BasicView(T* data, int width, int height, std::ptrdiff_t stride)
      : data_(data), width_(width), height_(height), stride_(stride) {}
  template <typename U>
  requires(std::is_same_v<const U, T>)
      BasicView(const BasicView<U>& other)  // NOLINT: writable to read-only is always wanted
      : data_(other.row(0)), width_(other.width()), height_(other.height()), stride_(other.stride()) {}

  [[nodiscard]] int width() const { return width_; }
  [[nodiscard]] int height() const { return height_; }
  [[nodiscard]] Size size() const { return {width_, height_}; }
  [[nodiscard]] std::ptrdiff_t stride() const { return stride_; }
  [[nodiscard]] bool empty() const { return width_ == 0 || height_ == 0; }
  [[nodiscard]] T* row(int y) const { return data_ + y * stride_; }
  [[nodiscard]] std::span<T> line(int y) const { return {row(y), static_cast<std::size_t>(width_)}; }
  [[nodiscard]] T& operator()(int x, int y) const {
    assert(x >= 0 && x < width_ && y >= 0 && y < height_);
    return row(y)[x];
  }
  /// The pixel nearest to (x, y) inside the picture.
  [[nodiscard]] T& clamped(int x, int y) const {
    return row(std::clamp(y, 0, height_ - 1))[std::clamp(x, 0, width_ - 1)];
  }

 private:
  T* data_ = nullptr;
  int width_ = 0, height_ = 0;
  std::ptrdiff_t stride_ = 0;
};

template <typename T>
using View = BasicView<const T>;
template <typename T>
using MutableView = BasicView<T>;

/// Memory for pixels, aligned to 64 bytes; large pictures lie in huge pages where the system has them, which spares
/// thousands of page faults. @throws std::bad_alloc
void* allocatePixels(std::size_t bytes);
void freePixels(void* pixels);

template <typename T>
class Image {
  static_assert(std::is_trivially_copyable_v<T>);
  static constexpr std::size_t alignment = 64;

 public:
  Image() = default;
  Image(int width, int height) : Image(width, height, T{}) {}
  Image(int width, int height, T value) {
    allocate(width, height);
    if (!empty()) std::uninitialized_fill_n(data_.get(), stride_ * height_, value);
  }
  explicit Image(Size size) : Image(size.width, size.height) {}
  Image(Image&& other) noexcept { swap(other); }
  Image& operator=(Image&& other) noexcept {
    Image gone(std::move(other));
    swap(gone);
    return *this;
  }
  Image(const Image&) = delete;
  Image& operator=(const Image&) = delete;
  ~Image() = default;

  [[nodiscard]] Image clone() const {
    Image copy;
    copy.allocate(width_, height_);
    if (!empty()) std::uninitialized_copy_n(data_.get(), stride_ * height_, copy.data_.get());
    return copy;
  }

  [[nodiscard]] int width() const { return width_; }
  [[nodiscard]] int height() const { return height_; }
  [[nodiscard]] Size size() const { return {width_, height_}; }
  [[nodiscard]] std::ptrdiff_t stride() const { return stride_; }
  [[nodiscard]] bool empty() const { return width_ == 0; }
  [[nodiscard]] T* row(int y) { return data_.get() + y * stride_; }
  [[nodiscard]] const T* row(int y) const { return data_.get() + y * stride_; }
  [[nodiscard]] std::span<T> line(int y) & { return {row(y), static_cast<std::size_t>(width_)}; }
  [[nodiscard]] std::span<const T> line(int y) const& { return {row(y), static_cast<std::size_t>(width_)}; }
  /// Of a picture that ends with the statement no line is left.
  std::span<const T> line(int y) const&& = delete;
  [[nodiscard]] T& operator()(int x, int y) {
    assert(x >= 0 && x < width_ && y >= 0 && y < height_);
    return row(y)[x];
  }
  [[nodiscard]] const T& operator()(int x, int y) const {
    assert(x >= 0 && x < width_ && y >= 0 && y < height_);
    return row(y)[x];
  }
  [[nodiscard]] View<T> view() const { return {data_.get(), width_, height_, stride_}; }
  [[nodiscard]] MutableView<T> view() { return {data_.get(), width_, height_, stride_}; }
  operator View<T>() const { return view(); }  // NOLINT: functions take views, images are passed to them

  friend bool operator==(const Image& a, const Image& b) {
    if (a.size() != b.size()) return false;
    for (int y = 0; y < a.height_; ++y)
      if (!std::equal(a.row(y), a.row(y) + a.width_, b.row(y))) return false;
    return true;
  }

 private:
  struct Free {
    void operator()(T* data) const { freePixels(data); }
  };
  void allocate(int width, int height) {
    assert(width >= 0 && height >= 0);
    if (width == 0 || height == 0) return;
    constexpr std::size_t unit = alignment % sizeof(T) == 0 ? alignment / sizeof(T) : alignment;
    width_ = width;
    height_ = height;
    stride_ = static_cast<std::ptrdiff_t>((static_cast<std::size_t>(width) + unit - 1) / unit * unit);
    const auto count = static_cast<std::size_t>(stride_) * static_cast<std::size_t>(height);
    data_.reset(static_cast<T*>(allocatePixels(count * sizeof(T))));
  }
  void swap(Image& other) noexcept {
    std::swap(data_, other.data_);
    std::swap(width_, other.width_);
    std::swap(height_, other.height_);
    std::swap(stride_, other.stride_);
  }

  std::unique_ptr<T[], Free> data_;
  int width_ = 0, height_ = 0;
  std::ptrdiff_t stride_ = 0;
};

}  // namespace hscaffold
