#include "app/brief/style_model.h"

#include <QDir>
#include <QStandardPaths>
#include <nlohmann/json.hpp>

#include "app/images.h"
#include "core/guides/json_fields.h"

namespace hscaffold::app {
namespace {

/// What every card shows.
EngineJob sampleJob(const StyleCard& card) {
  EngineJob job;
  job.recipe.frame = {192, 128};
  job.recipe.brief.prompt = "a lighthouse on a dune by the sea";
  job.recipe.brief.seed = 11;
  job.recipe.brief.steps = static_cast<int>(limits::steps.least);
  useStyle(job.recipe.brief, card, 1);
  return job;
}

double strengthOf(const Brief& brief, const std::string& id) {
  for (const StyleUse& use : brief.styles)
    if (use.id == id) return use.strength;
  return 0;
}

}  // namespace

StyleModel::StyleModel(Desk& desk, QObject* parent)
    : QAbstractListModel(parent),
      desk_(desk),
      own_(
          "styles.json", "Your own styles",
          [](const std::string& text) { return stylesFromJson(parseJson(text, "Your own styles")); },
          [](const std::vector<StyleCard>& cards) { return stylesToJson(cards).dump(1); }) {
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.brief) refresh();
  });
  // What was being made for another study is made again when it is looked at.
  connect(&desk_.document, &StudyDocument::replaced, this, [this] {
    asked_.clear();
    refresh();
  });
  refresh();
}

void StyleModel::refresh() {
  const Brief& brief = desk_.document.state().brief;
  std::vector<StyleCard> next;
  for (const StyleUse& use : brief.styles) {
    const StyleCard* own = styleNamed(own_.all(), use.id);
    next.push_back({use.id, use.name, use.words, own != nullptr});
  }
  const auto offer = [&](const StyleCard& card) {
    const QString text = QString::fromStdString(card.name + " " + card.words);
    if (strengthOf(brief, card.id) <= 0 && text.contains(search_, Qt::CaseInsensitive)) next.push_back(card);
  };
  for (const StyleCard& card : own_.all()) offer(card);
  for (const StyleCard& card : houseStyles()) offer(card);
  if (next == shown_) {
    if (!shown_.empty()) emit dataChanged(index(0), index(rowCount() - 1), {strengthRole});
    return;
  }
  beginResetModel();
  shown_ = std::move(next);
  endResetModel();
}

int StyleModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(shown_.size());
}

const StyleCard* StyleModel::card(const QModelIndex& index) const {
  return index.isValid() && index.row() < rowCount() ? &shown_[static_cast<std::size_t>(index.row())] : nullptr;
}

QModelIndex StyleModel::indexOf(const QString& id) const {
  for (int i = 0; i < rowCount(); ++i)
    if (shown_[static_cast<std::size_t>(i)].id == id.toStdString()) return index(i);
  return {};
}

QVariant StyleModel::data(const QModelIndex& index, int role) const {
  const StyleCard* of = card(index);
  if (of == nullptr) return {};
  const double strength = strengthOf(desk_.document.state().brief, of->id);
  switch (role) {
    case idRole:
      return QString::fromStdString(of->id);
    case strengthRole:
      return strength;
    case ownRole:
      return of->own;
    case Qt::DisplayRole:
      return QString::fromStdString(of->name);
    case Qt::DecorationRole:
      return picture(*of);
    case Qt::AccessibleTextRole:
      return QString::fromStdString(of->name) +
             (strength > 0 ? QString(", in use at %1").arg(strength, 0, 'f', 2) : QString(", not in use"));
    case Qt::ToolTipRole:
      return QString::fromStdString(of->name + ": " + (of->words.empty() ? "no words" : of->words));
    default:
      return {};
  }
}

QImage StyleModel::picture(const StyleCard& card) const {
  const std::string key = card.words;
  if (const auto found = pictures_.find(key); found != pictures_.end()) return found->second;
  if (!asked_.insert(key).second) return {};
  auto* self = const_cast<StyleModel*>(this);
  // The study's engine, if looking costs nothing there; else the one that is always here.
  auto sampler = desk_.queue.engine();
  if (!sampler || !sampler->info().samples) sampler = desk_.engines.find(builtInEngine);
  desk_.tasks.run(
      self, "style " + key, Priority::thumbnails,
      [job = std::make_shared<EngineJob>(sampleJob(card)), engine = sampler](const StopToken& stop) {
        return toQImage(engine->generate(*job, {}, stop).view());
      },
      [self, key](const QImage& image) {
        self->pictures_[key] = image;
        if (self->rowCount() > 0)
          emit self->dataChanged(self->index(0), self->index(self->rowCount() - 1), {Qt::DecorationRole});
      });
  return {};
}

void StyleModel::setSearch(const QString& text) {
  search_ = text.trimmed();
  refresh();
}

void StyleModel::use(const QModelIndex& index, double strength, bool goesOn) {
  const StyleCard* found = card(index);
  if (found == nullptr) return;
  const StyleCard of = *found;
  try {
    desk_.document.change((strength > 0 ? "Style " : "Take out style ") + QString::fromStdString(of.name),
                          [&](StudyState& s) { useStyle(s.brief, of, strength); },
                          goesOn ? "style " + of.id : std::string());
  } catch (const std::exception& error) {
    emit said(error.what());
  }
}

void StyleModel::add(StyleCard card) {
  card.own = true;
  own_.change([&](std::vector<StyleCard>& all) {
    if (all.size() >= mostOwnStyles) throw badInput("There are as many styles of your own as can be kept.");
    for (int i = 1; styleNamed(all, card.id = "own-" + std::to_string(i)) != nullptr;) ++i;
    all.insert(all.begin(), card);
  });
  refresh();
}

void StyleModel::remove(const QString& id) {
  own_.change([&](std::vector<StyleCard>& all) {
    std::erase_if(all, [&](const StyleCard& card) { return card.id == id.toStdString(); });
  });
  refresh();
}

}  // namespace hscaffold::app
