#include "cli/engine_choice.h"

#include "core/engine/registry.h"
#include "core/image/atomic_file.h"
#include "core/job/maps_wanted.h"
#include "files/program_engine.h"
#include "files/remote_engine.h"

namespace hscaffold {

void EngineChoice::addTo(Command& command) {
  auto byName = command.text("--engine", name, "What makes the proofs, by name, instead of the study's own: stand-in");
  auto own = command.text("--program", program,
                          "A program makes the proofs: its command, with {job} and {out} where the folders' names go");
  own.excludes(byName);
  auto far = command.text("--address", address, "A service makes the proofs: where hscaffold-engine listens");
  far.excludes(byName);
  far.excludes(own);
  command.text("--token-file", tokenFile, "A file with the token that the service asks for");
  command.texts("--maps", maps, "How that one wants its maps: dark-lines, near-dark, 8-bit, at-frame, or KIND=NAME");
  command.text("--inks", inks, "Inks in which that one wants its poses: a JSON file");
  command.number("--most-megapixels", mostMegapixels, "How much the program makes at once; larger finals come in parts",
                 programMegapixels);
}

MapsWanted EngineChoice::mapsWanted() const {
  MapsWanted wanted = mapsWantedFrom(maps);
  if (!inks.empty()) wanted.inks = textOf(readWholeFile(inks));
  return wanted;
}

std::shared_ptr<Engine> EngineChoice::engine(const std::string& usual) const {
  if (!address.empty()) {
    constexpr std::size_t longest = 4096;
    RemoteSetup setup{"the service", address,
                      tokenFile.empty() ? std::string() : textOf(readWholeFile(tokenFile, longest))};
    while (!setup.token.empty() && std::isspace(static_cast<unsigned char>(setup.token.back())) != 0)
      setup.token.pop_back();
    if (!maps.empty() || !inks.empty()) setup.maps = mapsWanted();
    return std::make_shared<RemoteEngine>(setup);
  }
  if (program.empty()) {
    if (!maps.empty() || !inks.empty()) throw badInput("--maps and --inks are for a --program or an --address.");
    const std::string& wanted = name.empty() ? usual : name;
    auto found = EngineRegistry().find(wanted);
    if (!found) throw badInput(engineMissing(wanted));
    return found;
  }
  ProgramSetup setup;
  setup.name = "program";
  setup.command = program;
  setup.mostMegapixels = mostMegapixels;
  setup.maps = mapsWanted();
  return std::make_shared<ProgramEngine>(setup);
}

}  // namespace hscaffold
