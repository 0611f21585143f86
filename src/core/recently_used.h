/// What was made or brought lately, found again by what it was made from: the one cache of this program.
#pragma once

#include <cstddef>
#include <list>
#include <memory>
#include <mutex>
#include <utility>

namespace hscaffold {

/// Bounded by the sum of what its values cost, in whatever the owner counts: bytes where values differ in size, 1 each
/// where they do not. What was not asked for the longest goes first; a value that alone costs more than all may is not
/// kept. Keys are compared one by one: for up to some hundred values. May be used by several threads.
template <typename Key, typename Value>
class RecentlyUsed {
 public:
  using Shared = std::shared_ptr<const Value>;
  explicit RecentlyUsed(std::size_t most) : most_(most) {}

  /// Null if it is not there.
  [[nodiscard]] Shared find(const Key& key) const {
    const std::lock_guard lock(mutex_);
    return used(key);
  }

  /// Takes the place of what was kept under the key.
  void put(const Key& key, Shared value, std::size_t cost = 1) {
    const std::lock_guard lock(mutex_);
    for (auto entry = kept_.begin(); entry != kept_.end(); ++entry) {
      if (!(entry->key == key)) continue;
      cost_ -= entry->cost;
      kept_.erase(entry);
      break;
    }
    if (cost > most_) return;
    kept_.push_front({key, std::move(value), cost});
    cost_ += cost;
    for (; cost_ > most_; kept_.pop_back()) cost_ -= kept_.back().cost;
  }

  /// @param make  gives a `Shared` that depends on nothing but the key; two threads that ask for the same thing at once
  /// may both make it.
  template <typename Make>
  Shared of(const Key& key, const Make& make, std::size_t cost = 1) {
    if (auto kept = find(key)) return kept;
    Shared fresh = make();
    put(key, fresh, cost);
    return fresh;
  }

  void clear() {
    const std::lock_guard lock(mutex_);
    kept_.clear();
    cost_ = 0;
  }
  [[nodiscard]] std::size_t cost() const {
    const std::lock_guard lock(mutex_);
    return cost_;
  }

 private:
  struct Entry {
    Key key;
    Shared value;
    std::size_t cost;
  };
  Shared used(const Key& key) const {
    for (auto entry = kept_.begin(); entry != kept_.end(); ++entry)
      if (entry->key == key) {
        kept_.splice(kept_.begin(), kept_, entry);
        return entry->value;
      }
    return nullptr;
  }
  std::size_t most_, cost_ = 0;
  mutable std::mutex mutex_;
  mutable std::list<Entry> kept_;  ///< the one that was asked for last comes first
};

}  // namespace hscaffold
