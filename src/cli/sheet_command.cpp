// hscaffold measure, hscaffold scan and hscaffold sheet list|export.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "core/guides/json_fields.h"
#include "core/image/narrow.h"
#include "core/image/png.h"
#include "core/job/pull.h"
#include "core/json_text.h"
#include "core/measure/scan.h"
#include "core/sheet/reading.h"
#include "core/study/study_file.h"
#include "files/picture_reader.h"
#include "files/sheet_files.h"
#include "files/study_job.h"

namespace hscaffold {
namespace {

struct SheetOptions {
  std::string study, out, picture;
  std::int64_t number = 0;
};

struct ScanOptions {
  std::string picture, says;
};

const SheetInfo& sheetIn(const std::vector<SheetInfo>& sheets, std::int64_t number, const std::string& study) {
  if (sheets.empty()) throw badInput(study + " has no sheets yet.");
  if (number == 0) return sheets.back();
  for (const SheetInfo& info : sheets)
    if (info.number == number) return info;
  throw badInput(fmt::format("{} has no sheet {}.", study, number));
}

std::vector<MeasuredCell> measuredCells(const std::vector<ProofInfo>& proofs, const SheetInfo& sheet) {
  std::vector<MeasuredCell> cells;
  for (const ProofInfo& proof : proofs)
    if (const auto hold = holdOf(proof, guideOf(sheet.plan)); proof.sheet == sheet.number && hold)
      cells.push_back({proof.cell, *hold, proof.shift.value_or(0)});
  return cells;
}

nlohmann::json readingAsJson(const SheetReading& reading, const SheetPlan& plan) {
  nlohmann::json json{{"sentence", reading.sentence}, {"doubt", reading.doubt}};
  if (reading.advised) json["advised"] = cellName(plan, *reading.advised);
  return json;
}

void runList(const SheetOptions& options, bool json) {
  const auto file = StudyFile::open(options.study, StudyFile::Access::read);
  const auto proofs = file.proofs();
  auto list = nlohmann::json::array();
  for (const SheetInfo& info : file.sheets()) {
    int done = 0;
    for (const ProofInfo& proof : proofs) done += proof.sheet == info.number ? 1 : 0;
    const SheetReading reading = readingOf(info.plan, measuredCells(proofs, info));
    if (json)
      list.push_back({{"sheet", info.number},
                      {"title", titleOf(info.plan)},
                      {"cells", info.plan.cells()},
                      {"proofs", done},
                      {"made", info.made},
                      {"reading", readingAsJson(reading, info.plan)}});
    else
      std::cout << fmt::format("{}: {}, {} of {} proofs\n   {} {}\n", nameOf(info), titleOf(info.plan), done,
                               info.plan.cells(), reading.sentence, reading.doubt);
  }
  if (json) std::cout << jsonText(list, 2) << "\n";
}

void runExport(const SheetOptions& options) {
  const auto file = StudyFile::open(options.study, StudyFile::Access::read);
  const auto sheets = file.sheets();
  const SheetInfo& info = sheetIn(sheets, options.number, options.study);
  const auto proofs = file.proofs();
  SheetContent content;
  content.title = nameOf(info) + ": " + titleOf(info.plan);
  content.plan = &info.plan;
  for (const ProofInfo& proof : proofs)
    if (proof.sheet == info.number) content.proofs.push_back(&proof);
  content.png = [&](std::int64_t number) { return file.proofPng(number); };
  writeFileAtomically(options.out, sheetFile(content, options.out));
}

/// Any picture against the guides of a study or of a recipe.
void runMeasure(const SheetOptions& options, bool json) {
  const std::filesystem::path in = options.study;
  const auto file = StudyFile::open(in, StudyFile::Access::read);
  const auto bytes = readWholeFile(options.picture);
  const auto picture = decodePicture(bytes, options.picture).picture;
  // A proof is measured by its own recipe, any other picture by what the study would pull now.
  Recipe recipe = recipeOf(file.readState());
  try {
    recipe = recipeFromTexts(readPngTexts(bytes));
  } catch (const Problem&) {
    // No recipe inside.
  }
  if (picture.size() != recipe.frame)
    throw badInput(
        fmt::format("{} is {} x {}, and the frame is {} x {}: only a picture of the frame's size can be measured.",
                    options.picture, picture.width(), picture.height(), recipe.frame.width, recipe.frame.height));
  const auto made = jobFor(file, recipe);
  for (const std::string& note : made.notes) std::cerr << "hscaffold: " << note << "\n";
  const auto measures = measuresOf(made.job, made.reference.get(), inEightBits(picture.view()));
  if (json) {
    nlohmann::json out{{"holds", measures.holds}};
    if (measures.shift) out["shift"] = *measures.shift;
    if (!measures.means.empty()) out["means"] = measures.means;
    std::cout << jsonText(out, 2) << "\n";
    return;
  }
  for (const RecipeGuide& entry : recipe.guides)
    if (const auto hold = measures.holds.find(entry.guide.id); hold != measures.holds.end())
      std::cout << fmt::format("hold of {}: {:.1f}", entry.guide.name, hold->second)
                << (measures.means.contains(entry.guide.id) ? ", measured by " + measures.means.at(entry.guide.id) : "")
                << "\n";
  if (measures.shift) std::cout << fmt::format("shift: {:.1f}\n", *measures.shift);
}

/// Of any picture, without a recipe.
void runScan(const ScanOptions& options, bool json) {
  const auto picture = inEightBits(readPicture(options.picture).picture.view());
  FoundCode asked;
  asked.text = options.says;
  const Scan scan = scanned(picture.view(), options.says.empty() ? nullptr : &asked);
  if (json) {
    nlohmann::json out{{"margin", scan.margin}, {"text", scan.text}, {"reads", scan.readings()}};
    for (const ScanWay& way : scan.ways) out["ways"][way.name] = way.share;
    std::cout << jsonText(out, 2) << "\n";
    return;
  }
  if (scan.text.empty()) {
    std::cout << (options.says.empty() ? "no code reads\n" : "no code that says so reads\n");
    return;
  }
  std::cout << fmt::format("\"{}\": scan margin {:.0f}, {} of {} ways of looking\n", scan.text, scan.margin,
                           scan.readings(), scan.ways.size());
  for (const ScanWay& way : scan.ways) std::cout << fmt::format("  {:<8} {:3.0f} %\n", way.name, 100 * way.share);
}

}  // namespace

void addSheetCommands(Command& root, const bool& json) {
  auto options = std::make_shared<SheetOptions>();
  auto measure = root.add("measure", "Measure how much of the guides is in a picture, and how far its look moved");
  measure.text("STUDY", options->study, "The study whose guides are asked for").required();
  measure.text("PICTURE", options->picture, "A proof (measured by its own recipe) or any picture of the frame's size")
      .required();
  measure.run([options, &json] { runMeasure(*options, json); });
  auto asked = std::make_shared<ScanOptions>();
  auto scan = root.add("scan", "Whether a code in a picture scans, and with what margin");
  scan.text("PICTURE", asked->picture, "Any picture").required();
  scan.text("--says", asked->says, "What it should say; whatever is read where nothing is given");
  scan.run([asked, &json] { runScan(*asked, json); });
  auto sheet = root.add("sheet", "Sheets of a study: what they are and say, and how they go out");
  auto list = sheet.add("list", "List them, with what each says");
  list.text("STUDY", options->study, "The .scaffold file").required();
  list.run([options, &json] { runList(*options, json); });
  auto out = sheet.add("export", "Write one as a labelled picture, a table, or a page with its pictures in it");
  out.text("STUDY", options->study, "The .scaffold file").required();
  out.text("-o,--out", options->out, "A file that ends in .png, .pdf, .csv or .html").required();
  out.whole("--number", options->number, "Which sheet; the last one if not given", {1, 1e15});
  out.run([options] { runExport(*options); });
}

}  // namespace hscaffold
