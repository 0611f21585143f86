// PoseWork: changes of the list, and of one figure.
#include <algorithm>

#include "app/document/study_document.h"
#include "app/points.h"
#include "app/workbench/pose/pose_work.h"

namespace hscaffold::app {
namespace {

QString titleOf(const pose::Figure& figure, std::size_t number) {
  return figure.name.empty() ? QString("Figure %1").arg(number + 1) : QString::fromStdString(figure.name);
}

}  // namespace

void PoseWork::remove(std::size_t figure) {
  if (!figures_ || start_ || figure >= figures_->figures.size()) return;
  auto all = figures_->figures;
  const QString name = titleOf(*all[figure], figure);
  all.erase(all.begin() + static_cast<std::ptrdiff_t>(figure));
  led_.clear();
  points_.clear();
  selected_ = all.empty() ? std::nullopt : std::optional(std::min(figure, all.size() - 1));
  commit("Remove " + name, std::move(all));
}

void PoseWork::change(std::size_t figure, const QString& name,
                      const std::function<pose::Figure(const pose::Figure&)>& edit, const std::string& merge) {
  if (!figures_ || start_ || figure >= figures_->figures.size()) return;
  auto all = figures_->figures;
  pose::Figure next = edit(*all[figure]);
  if (next == *all[figure]) return;
  all[figure] = std::make_shared<const pose::Figure>(std::move(next));
  commit(name, std::move(all), merge);
}

void PoseWork::bringNearer(std::size_t figure, int places) {
  if (!figures_ || start_ || figure >= figures_->figures.size()) return;
  const auto last = static_cast<std::ptrdiff_t>(figures_->figures.size()) - 1;
  const auto to = std::clamp(static_cast<std::ptrdiff_t>(figure) + places, std::ptrdiff_t{0}, last);
  if (to == static_cast<std::ptrdiff_t>(figure)) return;
  auto all = figures_->figures;
  const FigurePtr moved = all[figure];
  all.erase(all.begin() + static_cast<std::ptrdiff_t>(figure));
  all.insert(all.begin() + to, moved);
  led_.clear();
  selected_ = static_cast<std::size_t>(to);
  commit(places > 0 ? "Bring figure nearer" : "Send figure farther", std::move(all));
}

}  // namespace hscaffold::app
