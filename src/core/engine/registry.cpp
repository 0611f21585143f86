#include "core/engine/registry.h"

#include <algorithm>

#include "core/engine/standin/standin.h"

namespace hscaffold {

EngineRegistry::EngineRegistry() { add(std::make_shared<StandinEngine>()); }

void EngineRegistry::add(std::shared_ptr<Engine> engine) {
  std::string name = engine->info().name;
  for (Entry& entry : entries_)
    if (entry.name == name) {
      entry.engine = std::move(engine);
      return;
    }
  entries_.push_back({std::move(name), std::move(engine)});
}

void EngineRegistry::remove(const std::string& name) {
  std::erase_if(entries_, [&](const Entry& entry) { return entry.name == name; });
}

std::shared_ptr<Engine> EngineRegistry::find(const std::string& name) const {
  const auto found =
      std::find_if(entries_.begin(), entries_.end(), [&](const Entry& entry) { return entry.name == name; });
  return found != entries_.end() ? found->engine : nullptr;
}

EngineInfo EngineRegistry::info(const std::string& name) const {
  if (const auto engine = find(name)) return engine->info();
  EngineInfo info;
  info.name = info.id = info.title = name;
  info.note = engineMissing(name);
  info.missing = true;
  return info;
}

std::vector<EngineInfo> EngineRegistry::all() const {
  std::vector<EngineInfo> all;
  for (const Entry& entry : entries_) all.push_back(entry.engine->info());
  return all;
}

std::string engineMissing(const std::string& name) {
  return "The engine \"" + name + "\" of this study is not here. Connect it, or choose another one.";
}

}  // namespace hscaffold
