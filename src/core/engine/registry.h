/// The engines that can be had here, by the names under which studies keep them.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/engine/engine.h"

namespace hscaffold {

/// Name of the engine that is always there.
inline constexpr const char* builtInEngine = "stand-in";

/// Belongs to one thread; the engines that it hands out may be used by several.
class EngineRegistry {
 public:
  /// With the built-in stand-in.
  EngineRegistry();
  /// Adds an engine, or puts it in the place of the one of that name: also to say that what it can do has changed.
  void add(std::shared_ptr<Engine> engine);
  void remove(const std::string& name);
  /// What was wrong when it was last heard of; empty: nothing. @return whether that is new
  bool say(const std::string& name, const std::string& trouble);
  /// Null if there is none of that name: nothing takes its place silently.
  [[nodiscard]] std::shared_ptr<Engine> find(const std::string& name) const;
  /// What was known of an engine when it was added; of one that is not here that it is missing. Never null.
  [[nodiscard]] std::shared_ptr<const EngineInfo> info(const std::string& name) const;
  /// In the order in which they were added.
  [[nodiscard]] std::vector<std::shared_ptr<const EngineInfo>> all() const;

 private:
  struct Entry {
    std::shared_ptr<Engine> engine;
    std::shared_ptr<const EngineInfo> info;
  };
  [[nodiscard]] const Entry* entry(const std::string& name) const;
  std::vector<Entry> entries_;
};

/// The sentence for whoever asks for an engine that is not here.
std::string engineMissing(const std::string& name);

}  // namespace hscaffold
