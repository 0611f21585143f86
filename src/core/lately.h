/// What was made lately, found again by what it was made from.
#pragma once

#include <deque>
#include <memory>
#include <mutex>
#include <utility>

namespace hscaffold {

/// The oldest goes first. May be used by several threads.
template <typename Key, typename Value>
class Lately {
 public:
  explicit Lately(std::size_t most) : most_(most) {}

  /// @param make  gives a std::shared_ptr<const Value> that depends on nothing but the key; two threads that ask for the
  /// same thing at once may both make it.
  template <typename Make>
  std::shared_ptr<const Value> of(const Key& key, const Make& make) {
    {
      const std::lock_guard lock(mutex_);
      for (const auto& [of, value] : kept_)
        if (of == key) return value;
    }
    std::shared_ptr<const Value> fresh = make();
    const std::lock_guard lock(mutex_);
    kept_.emplace_back(key, fresh);
    if (kept_.size() > most_) kept_.pop_front();
    return fresh;
  }

 private:
  std::size_t most_;
  std::mutex mutex_;
  std::deque<std::pair<Key, std::shared_ptr<const Value>>> kept_;
};

}  // namespace hscaffold
