#include "app/document/study_edits.h"

#include <fmt/format.h>

#include <QBuffer>
#include <functional>
#include <optional>

#include "app/desk.h"
#include "core/frame/frame.h"
#include "core/kinds.h"
#include "core/study/study_file.h"
#include "files/picture_reader.h"
#include "files/study_job.h"
#include "files/svg_lines.h"

namespace hscaffold::app {
namespace {

/// A picture that was read, on its way into the study.
struct Coming {
  PictureFile file;
  MapRoom::Decoded picture;
  std::string name;
  bool stored = false;        ///< in the study already, where that is still the same
  std::vector<Guide> guides;  ///< made of it; none: one of its edges
};

Guide edgesOf(const std::string& picture) {
  Guide out;
  out.kind = "edges";
  out.name = fittedText(std::filesystem::path(picture).stem().string(), 24);
  out.weight = 0.7;
  return out;
}

void putIn(Desk& desk, std::vector<Coming> all, const StudyDocument::Store& store,
           const std::function<void(StudyState&)>& also) {
  StudyDocument& document = desk.document;
  if (all.empty()) return;
  if (document.forLooking()) {
    document.change({}, [](StudyState&) {});  // says so
    return;
  }
  QStringList names;
  for (const Coming& one : all) names << QString::fromStdString(one.name);
  const Size before = document.state().frame;
  for (const Coming& one : all)
    if (!one.stored || !store.isFor(document)) document.keepPicture(one.file);
  document.change("Bring in " + names.join(", "), [&](StudyState& s) {
    for (Coming& one : all) {
      const std::string id = addReference(s, one.file, one.picture.picture->size(), one.name);
      if (one.guides.empty()) one.guides.push_back(edgesOf(one.name));
      for (Guide& guide : one.guides) {
        guide.id = newId(s, "g");
        guide.reference = id;
        s.looking.guide = guide.id;
        s.guides.push_back(std::move(guide));
      }
      // Decoded already: the window need not read it again.
      desk.maps.give(id, one.file.content, std::move(one.picture));
    }
    if (also) also(s);
  });
  const Size now = document.state().frame;
  if (now != before)
    emit document.notice(QString("The frame has taken the picture's ratio: %1 x %2. Undo brings %3 x %4 back.")
                             .arg(now.width)
                             .arg(now.height)
                             .arg(before.width)
                             .arg(before.height));
}

/// A drawing that was read.
struct ComingDrawing {
  Drawing drawing;
  QString name;
};

/// What one drop or one choice of files brings.
struct Parcel {
  std::vector<Coming> pictures;
  std::vector<ComingDrawing> drawings;
  QStringList notes, problems;
  std::function<void(StudyState&)> also;  ///< in the same step as the pictures
};

void read(Parcel& parcel, const std::filesystem::path& path, Size frame) {
  try {
    std::string note;
    if (QString::fromStdString(path.extension().string()).toLower() == ".svg") {
      auto lines = readSvgLines(readWholeFile(path), path.filename().string(), frame);
      ComingDrawing one{{}, QString::fromStdString(path.stem().string())};
      one.drawing.strokes = std::move(lines.strokes);
      parcel.drawings.push_back(std::move(one));
      note = lines.note;
    } else {
      Coming one;
      Bytes bytes;
      auto loaded = readPicture(path, &bytes);
      one.file = pictureFile(std::move(bytes));
      one.picture = MapRoom::decoded(std::move(loaded.picture));
      one.name = path.filename().string();
      parcel.pictures.push_back(std::move(one));
      note = loaded.note;
    }
    if (!note.empty()) parcel.notes << QString::fromStdString(note);
  } catch (const std::exception& error) {
    parcel.problems << error.what();
  }
}

/// A picture from the bytes of its file. @throws Problem
Coming comingFrom(Bytes bytes, const std::string& name) {
  auto picture = MapRoom::decoded(decodePicture(bytes, name).picture);
  return {pictureFile(std::move(bytes)), std::move(picture), name, false, {}};
}

/// Reads in the background; what was read then comes in, if the study is still the same.
void begin(Desk& desk, std::function<Parcel(const StopToken&)> job) {
  static int parcels = 0;  // each its own: none overtakes another
  const StudyDocument::Store store(desk.document);
  auto whole = [job = std::move(job), store](const StopToken& stop) {
    Parcel parcel = job(stop);
    for (Coming& one : parcel.pictures) one.stored = store.put(one.file);
    return parcel;
  };
  desk.tasks.run(&desk, "bring in " + std::to_string(++parcels), Priority::hand, std::move(whole),
                 [&desk, store](Parcel parcel) {
                   putIn(desk, std::move(parcel.pictures), store, parcel.also);
                   for (auto& [drawing, name] : parcel.drawings)
                     addDrawnGuide(desk.document, "lines", name, std::move(drawing));
                   for (const QString& note : parcel.notes) emit desk.document.notice(note);
                   for (const QString& problem : parcel.problems) emit desk.document.problem(problem);
                 });
}

}  // namespace

void bringIn(Desk& desk, const std::vector<std::filesystem::path>& files) {
  begin(desk, [files, frame = desk.document.state().frame](const StopToken& stop) {
    Parcel parcel;
    for (const auto& path : files) {
      throwIfStopped(stop);
      read(parcel, path, frame);
    }
    return parcel;
  });
}

void bringIn(Desk& desk, const QImage& image, const QString& name) {
  begin(desk, [image, name = name.toStdString()](const StopToken&) {
    Parcel parcel;
    try {
      QByteArray data;
      QBuffer buffer(&data);
      buffer.open(QIODevice::WriteOnly);
      image.save(&buffer, "PNG");
      const auto view = std::as_bytes(std::span(data.constData(), static_cast<std::size_t>(data.size())));
      parcel.pictures.push_back(comingFrom(Bytes(view.begin(), view.end()), name));
    } catch (const std::exception& error) {
      parcel.problems << error.what();
    }
    return parcel;
  });
}

void bringIn(Desk& desk, Bytes bytes, const QString& name, std::vector<Guide> guides,
             std::function<void(StudyState&)> also) {
  begin(desk, [bytes = std::move(bytes), name = name.toStdString(), guides = std::move(guides),
               also = std::move(also)](const StopToken&) {
    Parcel parcel;
    try {
      parcel.pictures.push_back(comingFrom(bytes, name));
      parcel.pictures.back().guides = guides;
      parcel.also = also;
    } catch (const std::exception& error) {
      parcel.problems << error.what();
    }
    return parcel;
  });
}

void bringInProof(Desk& desk, std::int64_t number) {
  begin(desk, [number, bytesOf = desk.proofs.reader()](const StopToken&) {
    Parcel parcel;
    try {
      parcel.pictures.push_back(comingFrom(bytesOf(number), fmt::format("proof-{}.png", number)));
    } catch (const std::exception& error) {
      parcel.problems << error.what();
    }
    return parcel;
  });
}

namespace {

/// Brings one picture in, and does with it what `use` says, as one step.
std::string bringInFor(Desk& desk, const QString& name, const std::filesystem::path& file,
                       const std::function<void(StudyState&, const std::string& id)>& use) {
  Bytes bytes;
  auto loaded = readPicture(file, &bytes);
  const PictureFile picture = pictureFile(std::move(bytes));
  desk.document.keepPicture(picture);
  std::string id;
  desk.document.change(name + " " + QString::fromStdString(file.filename().string()), [&](StudyState& s) {
    id = addReference(s, picture, loaded.picture.size(), file.filename().string());
    // Decoded already: the window need not read it again.
    desk.maps.give(id, picture.content, MapRoom::decoded(std::move(loaded.picture)));
    use(s, id);
  });
  return id;
}

}  // namespace

std::string addReferenceFrom(Desk& desk, const std::filesystem::path& file) {
  return bringInFor(desk, "Bring in", file, [](StudyState&, const std::string&) {});
}

void startFromFile(Desk& desk, const std::filesystem::path& file) {
  bringInFor(desk, "Start from", file, [](StudyState& s, const std::string& id) {
    s.brief.start.from = StartPicture::From::reference;
    s.brief.start.reference = id;
    s.brief.start.placement = {};
  });
}

void addGuide(StudyDocument& document, const std::string& kind, const Tuning& tuning, const std::string& of) {
  const Kind& made = kindOf(kind);
  const std::string name = made.name;
  if (made.hasSlot(pose::figuresSlot)) return addPoseGuide(document, QString::fromStdString(name));
  document.change(QString("Add guide: %1").arg(QString::fromStdString(name)), [&](StudyState& s) {
    Guide guide;
    if (made.extract) {
      const Reference* reference = s.reference(of.empty() ? s.looking.reference : of);
      if (reference == nullptr && !s.references.empty()) reference = &s.references.back();
      if (reference == nullptr && made.needsPicture()) return;
      if (reference != nullptr) guide.reference = reference->id;
    }
    guide.id = newId(s, "g");
    guide.kind = kind;
    guide.name = name;
    guide.weight = made.startWeight.value_or(0.7);
    guide.range = made.startRange;
    guide.tuning = tuning;
    s.looking.guide = guide.id;
    s.guides.push_back(std::move(guide));
  });
}

void addDrawnGuide(StudyDocument& document, const std::string& kind, const QString& name, Drawing drawing) {
  drawing.alone = true;
  drawing.frame = document.state().frame;
  const std::string kept = document.work().keep(drawingForm(), std::move(drawing));
  document.change("Add guide: " + name, [&](StudyState& s) {
    Guide guide;
    guide.id = newId(s, "g");
    guide.kind = kind;
    guide.name = fittedText(name.toStdString(), 24);
    guide.weight = 0.7;
    guide.work.put(drawingSlot, kept);
    s.looking.guide = guide.id;
    s.guides.push_back(std::move(guide));
  });
}

void addPoseGuide(StudyDocument& document, const QString& name, pose::Figures figures,
                  const std::function<void(StudyState&)>& also) {
  const auto& state = document.state();
  const Reference* reference = state.selectedReference();
  if (reference == nullptr && !state.references.empty()) reference = &state.references.back();
  Guide guide;
  guide.kind = "pose";
  guide.name = fittedText(name.toStdString(), 24);
  if (reference != nullptr) guide.reference = reference->id;
  guide.weight = 0.9;
  const GuidePlace place = document.placeOf(guide);
  figures.frame = place.frame;
  figures.placing = place.placing;
  guide.work.put(pose::figuresSlot, document.work().keep(pose::figuresForm(), std::move(figures)));
  document.change("Add guide: " + name, [&](StudyState& s) {
    guide.id = newId(s, "g");
    s.looking.guide = guide.id;
    s.guides.push_back(std::move(guide));
    if (also) also(s);
  });
}

pose::CocoFigures figuresForStudy(const StudyDocument& document, const std::filesystem::path& file) {
  const auto& state = document.state();
  const auto bytes = readWholeFile(file);
  const Guide* guide = state.selectedGuide();
  const bool posed = guide != nullptr && kindOf(guide->kind).hasSlot(pose::figuresSlot);
  const Reference* reference = state.reference(posed ? guide->reference : state.looking.reference);
  auto read = figuresFromFile(bytes, file.filename().string(), reference != nullptr ? reference->size : state.frame);
  if (reference != nullptr) read.figures = placedWith(std::move(read.figures), *reference, state.frame);
  return read;
}

void startFromProof(StudyDocument& document, std::int64_t number) {
  document.change("Start from a proof", [&](StudyState& s) {
    s.brief.start.from = StartPicture::From::proof;
    s.brief.start.proof = number;
    s.brief.start.placement = {};
  });
}

void turnStars(StudyDocument& document, const std::vector<std::int64_t>& numbers) {
  const auto& kept = document.state().kept;
  const bool all = std::all_of(numbers.begin(), numbers.end(), [&](std::int64_t number) {
    return std::find(kept.begin(), kept.end(), number) != kept.end();
  });
  document.change(all ? "Take the star away" : "Give a star", [&](StudyState& s) {
    for (const std::int64_t number : numbers) {
      std::erase(s.kept, number);
      if (!all) s.kept.push_back(number);
    }
  });
}

bool adoptProof(Desk& desk, const ProofInfo& proof) {
  const bool small = proof.sheet > 0 || proof.recipe.mapsFrame.area() > 0;
  const Recipe recipe = small ? atSize(proof.recipe, desk.document.state().frame) : proof.recipe;
  std::vector<std::string> lost;
  desk.document.change(QString("Adopt settings of proof %1").arg(proof.number),
                       [&](StudyState& s) { lost = adoptRecipe(s, recipe); });
  for (const auto& sentence : lost) emit desk.notice(QString::fromStdString(sentence));
  return lost.empty();
}

void adoptProofOf(Desk& desk, std::int64_t number) {
  const ProofInfo* proof = desk.proofs.proof(number);
  if (proof != nullptr && adoptProof(desk, *proof))
    emit desk.notice(QString("The settings of proof %1 are the study's now.").arg(number));
}

void putProofsAway(StudyDocument& document, const std::vector<std::int64_t>& numbers) {
  if (numbers.empty()) return;
  const QString name = numbers.size() == 1 ? QString("Put proof %1 away").arg(numbers.front())
                                           : QString("Put %1 proofs away").arg(numbers.size());
  document.change(name, [&](StudyState& s) {
    for (const std::int64_t number : numbers) {
      s.discarded.push_back(number);
      if (s.looking.proof == number) s.looking.proof = 0;
    }
  });
}

bool setValue(StudyState& state, const Axis& axis, std::size_t index) {
  // Through a recipe, so that it means just what it meant in the strip.
  Recipe recipe = recipeOf(state);
  try {
    recipe = withValue(std::move(recipe), axis, index);
  } catch (const Problem&) {
    return false;
  }
  const bool locked = state.brief.seedLocked;
  const std::string extra = state.brief.extra;
  state.brief = recipe.brief;
  state.brief.seedLocked = locked;
  state.brief.extra = extra;
  bool there = infoOf(axis.setting).of != SettingInfo::Of::guide;
  for (const RecipeGuide& entry : recipe.guides)
    if (entry.guide.id == axis.of)
      if (Guide* guide = state.guide(axis.of)) {
        guide->weight = entry.guide.weight;
        guide->range = entry.guide.range;
        there = true;
      }
  if (axis.setting == Setting::on)
    if (Guide* guide = state.guide(axis.of)) {
      guide->on = axis.values[index] >= 0.5;
      there = true;
    }
  return there;
}

void removeGuide(StudyDocument& document, const std::string& id) {
  const Guide* guide = document.state().guide(id);
  if (guide == nullptr) return;
  document.change("Remove guide " + QString::fromStdString(guide->name), [&](StudyState& s) {
    std::erase_if(s.guides, [&](const Guide& g) { return g.id == id; });
    s.lookAtWhatIsThere();
  });
}

void removeReference(StudyDocument& document, const std::string& id) {
  const Reference* reference = document.state().reference(id);
  if (reference == nullptr) return;
  document.change("Take out " + QString::fromStdString(reference->name), [&](StudyState& s) {
    std::erase_if(s.references, [&](const Reference& r) { return r.id == id; });
    std::erase_if(s.guides, [&](const Guide& g) { return g.reference == id; });
    s.lookAtWhatIsThere();
  });
}

}  // namespace hscaffold::app
