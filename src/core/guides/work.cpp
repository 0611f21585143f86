#include "core/guides/work.h"

namespace hscaffold {

const std::string& WorkNames::in(const std::string& slot) const {
  static const std::string none;
  const auto found = names_.find(slot);
  return found != names_.end() ? found->second : none;
}

void WorkNames::put(const std::string& slot, std::string name) {
  if (name.empty())
    names_.erase(slot);
  else
    names_[slot] = std::move(name);
}

GuideWork GuideWork::following(std::span<const WorkSlot> slots, Size frame,
                               const std::optional<Affine>& placing) const {
  GuideWork out;
  for (const WorkSlot& slot : slots)
    if (const auto found = pieces_.find(slot.name); found != pieces_.end())
      out.put(slot.name, slot.form->follow(found->second, frame, placing));
  return out;
}

}  // namespace hscaffold
