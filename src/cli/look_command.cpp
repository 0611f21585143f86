// hscaffold study info|check|repair|export.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "cli/study_commands.h"
#include "core/engine/registry.h"
#include "core/frame/frame.h"
#include "core/job/job_folder.h"
#include "core/json_text.h"
#include "core/kinds.h"
#include "core/study/checks.h"
#include "core/study/study_database.h"
#include "core/study/study_file.h"
#include "files/study_job.h"
#include "files/study_repair.h"

namespace hscaffold {
namespace {

void runInfo(const std::string& path, bool json) {
  const auto file = StudyFile::open(path, StudyFile::Access::read);
  const auto state = file.readState();
  const auto proofs = file.proofs();
  sayMended(file);
  if (json) {
    auto out = stateToJson(state);
    out["proofs"] = proofs.size();
    std::cout << jsonText(out, 2) << "\n";
    return;
  }
  std::cout << fmt::format("{}\n  frame       {} x {} ({})\n", state.title, state.frame.width, state.frame.height,
                           ratioName(state.frame));
  for (const auto& r : state.references)
    std::cout << fmt::format("  reference   {} ({} x {})\n", r.name, r.size.width, r.size.height);
  for (const auto& g : state.guides)
    std::cout << fmt::format("  guide       {}: {}, weight {:.2f}, {:.0f} to {:.0f} %{}\n", g.name, g.kind, g.weight,
                             g.range.from, g.range.to, g.on ? "" : ", off");
  std::cout << fmt::format("  prompt      {}\n  seed        {}, {} steps, guidance {}\n  proofs      {}\n",
                           state.brief.prompt, state.brief.seed, state.brief.steps, state.brief.guidance,
                           proofs.size());
}

void runCheck(const std::string& path, bool json) {
  const auto file = StudyFile::open(path, StudyFile::Access::read);
  lookThrough(path);
  const auto state = file.readState();
  auto list = nlohmann::json::array();
  const auto made = jobFor(file, recipeOf(state));
  sayMended(file);
  for (const std::string& note : made.notes) std::cerr << "hscaffold: " << note << "\n";
  MapPairs pairs;
  const auto proofs = file.proofs();
  const auto engine = EngineRegistry().info(state.engine);
  for (const auto& check : checksOf(state, factsOf(made), pairs, engine.get(), proofs)) {
    list.push_back({{"check", check.id}, {"bad", check.severity == Severity::bad}, {"sentence", check.sentence}});
    if (!json) std::cout << (check.severity == Severity::bad ? "bad    " : "doubt  ") << check.sentence << "\n";
  }
  if (json) std::cout << jsonText(list, 2) << "\n";
  if (!json && list.empty()) std::cout << "No doubts.\n";
  if (std::any_of(list.begin(), list.end(), [](const auto& each) { return each.at("bad").template get<bool>(); }))
    throw badInput("As it is, this study cannot be pulled.");
}

void runExport(const std::string& path, const std::filesystem::path& folder) {
  const auto file = StudyFile::open(path, StudyFile::Access::read);
  const auto made = jobFor(file, recipeOf(file.readState()));
  const auto proofs = file.proofs();
  sayMended(file);
  for (const std::string& note : made.notes) std::cerr << "hscaffold: " << note << "\n";
  writeJobFolder(made.job, folder);
  // What the maps show, in the formats of their kinds besides: key points for poses.
  for (std::size_t i = 0; i < made.job.inputs.size(); ++i) {
    const Guide& guide = made.job.recipe.guides[i].guide;
    const Kind& kind = kindOf(guide.kind);
    if (kind.besideEnding.empty()) continue;
    const std::string name = fmt::format("map-{}-{}{}", i + 1, kind.id, kind.besideEnding);
    const ExportAsk ask{guide, made.job.inputs[i], made.job.recipe.frame, guide.name};
    writeFileAtomically(folder / name, bytesOf(exportFor(kind, name)->write(ask)));
  }
  for (const auto& proof : proofs)
    writeFileAtomically(folder / fmt::format("proof-{:03}.png", proof.number), file.proofPng(proof.number));
}

void runRepair(const std::string& in, const std::string& out, bool json) {
  const auto report = repairStudy(in, out);
  if (json) {
    std::cout << jsonText({{"pictures", report.pictures},
                           {"hand-work", report.pieces},
                           {"proofs", report.proofs},
                           {"sheets", report.sheets},
                           {"settings", report.settings},
                           {"notes", report.notes}},
                          2)
              << "\n";
    return;
  }
  std::cout << fmt::format("Brought back: {} pictures, {} pieces of hand work, {} proofs, {} sheets{}.\n",
                           report.pictures, report.pieces, report.proofs, report.sheets,
                           report.settings ? ", and the settings" : "");
  for (const std::string& note : report.notes) std::cout << note << "\n";
}

}  // namespace

void addLookCommands(Command& study, const bool& json) {
  auto path = std::make_shared<std::string>();
  auto folder = std::make_shared<std::string>();
  auto info = study.add("info", "Say what is in a study");
  info.text("STUDY", *path, "The .scaffold file").required();
  info.run([path, &json] { runInfo(*path, json); });
  auto check = study.add("check", "Say what is wrong or doubtful before a pull");
  check.text("STUDY", *path, "The .scaffold file").required();
  check.run([path, &json] { runCheck(*path, json); });
  auto from = std::make_shared<std::string>(), to = std::make_shared<std::string>();
  auto repair = study.add("repair", "Bring back what can be read of a damaged study");
  repair.text("IN", *from, "The damaged .scaffold file; it is not changed").required();
  repair.text("OUT", *to, "The .scaffold file to make").required();
  repair.run([from, to, &json] { runRepair(*from, *to, json); });
  auto exporting = study.add("export", "Write maps, recipe and proofs into a folder");
  exporting.text("STUDY", *path, "The .scaffold file").required();
  exporting.text("-o,--out", *folder, "The folder").required();
  exporting.run([path, folder] { runExport(*path, *folder); });
}

}  // namespace hscaffold
