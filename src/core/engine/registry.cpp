#include "core/engine/registry.h"

#include <algorithm>

#include "core/engine/standin/standin.h"

namespace hscaffold {

EngineRegistry::EngineRegistry() { add(std::make_shared<StandinEngine>()); }

void EngineRegistry::add(std::shared_ptr<Engine> engine) {
  Entry added{engine, std::make_shared<const EngineInfo>(engine->info())};
  for (Entry& each : entries_)
    if (each.info->name == added.info->name) {
      each = std::move(added);
      return;
    }
  entries_.push_back(std::move(added));
}

void EngineRegistry::remove(const std::string& name) {
  std::erase_if(entries_, [&](const Entry& each) { return each.info->name == name; });
}

bool EngineRegistry::say(const std::string& name, const std::string& trouble) {
  for (Entry& each : entries_) {
    if (each.info->name != name || each.info->trouble == trouble) continue;
    // Whoever holds what was known keeps it.
    auto info = std::make_shared<EngineInfo>(*each.info);
    info->trouble = trouble;
    each.info = std::move(info);
    return true;
  }
  return false;
}

const EngineRegistry::Entry* EngineRegistry::entry(const std::string& name) const {
  const auto found =
      std::find_if(entries_.begin(), entries_.end(), [&](const Entry& each) { return each.info->name == name; });
  return found != entries_.end() ? &*found : nullptr;
}

std::shared_ptr<Engine> EngineRegistry::find(const std::string& name) const {
  const Entry* found = entry(name);
  return found != nullptr ? found->engine : nullptr;
}

std::shared_ptr<const EngineInfo> EngineRegistry::info(const std::string& name) const {
  if (const Entry* found = entry(name)) return found->info;
  EngineInfo info;
  info.name = info.id = info.title = name;
  info.note = engineMissing(name);
  info.missing = true;
  return std::make_shared<const EngineInfo>(std::move(info));
}

std::vector<std::shared_ptr<const EngineInfo>> EngineRegistry::all() const {
  std::vector<std::shared_ptr<const EngineInfo>> all;
  for (const Entry& each : entries_) all.push_back(each.info);
  return all;
}

std::string engineMissing(const std::string& name) {
  return "The engine \"" + name + "\" of this study is not here. Connect it, or choose another one.";
}

}  // namespace hscaffold
