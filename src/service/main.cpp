// hscaffold-engine: an engine behind HTTP, for windows and command lines elsewhere. Log: a line of JSON each, on
// standard error. Exit codes as hscaffold's.
#include <fmt/format.h>
#include <pthread.h>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>
#include <sys/resource.h>

#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <csignal>
#include <iostream>
#include <nlohmann/json.hpp>

#include "core/engine/registry.h"
#include "core/image/atomic_file.h"
#include "core/job/maps_wanted.h"
#include "core/job/pull.h"
#include "core/json_text.h"
#include "files/program_engine.h"
#include "service/service.h"

namespace {

using namespace hscaffold;

struct Options {
  ServiceSetup setup;
  std::string tokenFile, program;
  std::vector<std::string> maps, families;
  std::string inks;
  int nice = 10;
  double mostMegapixels = 0, bodyMegabytes = 256, megapixels = 32;
};

std::string tokenIn(const std::string& path) {
  if (path.empty()) return {};
  constexpr std::size_t longest = 4096, shortest = 16;
  std::string token = textOf(readWholeFile(path, longest));
  while (!token.empty() && (token.back() == '\n' || token.back() == '\r' || token.back() == ' ')) token.pop_back();
  if (token.size() < shortest)
    throw badInput(fmt::format("The token in {} has fewer than {} characters: make a longer one.", path, shortest));
  return token;
}

std::shared_ptr<Engine> engineOf(const Options& options) {
  if (options.program.empty()) return EngineRegistry().find(builtInEngine);
  ProgramSetup setup;
  setup.name = options.setup.name;
  setup.command = options.program;
  setup.mostSeconds = std::min(options.setup.limits.seconds, programSeconds.most);
  setup.mostMegapixels = options.mostMegapixels;
  setup.maps = mapsWantedFrom(options.maps);
  if (!options.inks.empty()) setup.maps.inks = textOf(readWholeFile(options.inks));
  setup.families = options.families;
  return std::make_shared<ProgramEngine>(setup);
}

int serve(Options& options) {
  // Signals are waited for by one thread, the first; all others leave them to it.
  sigset_t ends;
  sigemptyset(&ends);
  sigaddset(&ends, SIGTERM);
  sigaddset(&ends, SIGINT);
  pthread_sigmask(SIG_BLOCK, &ends, nullptr);
  std::signal(SIGPIPE, SIG_IGN);
  // Whoever works at this machine goes first.
  ::setpriority(PRIO_PROCESS, 0, options.nice);
  const auto logger = spdlog::stderr_logger_mt("service");
  logger->set_pattern("%v");
  logger->flush_on(spdlog::level::info);
  const auto log = [logger](const nlohmann::json& line) {
    nlohmann::json all{{"time", timeNow()}};
    all.update(line);
    logger->info("{}", jsonText(all));
  };
  options.setup.token = tokenIn(options.tokenFile);
  options.setup.limits.bodyBytes = static_cast<std::int64_t>(options.bodyMegabytes * 1024 * 1024);
  options.setup.limits.pixels = static_cast<std::int64_t>(options.megapixels * 1e6);
  Service service(engineOf(options), options.setup, [log](const std::string& event, const std::string& job, double ms) {
    log({{"event", event}, {"job", job}, {"milliseconds", std::round(ms)}});
  });
  log({{"event", "listening"},
       {"address", fmt::format("http://{}:{}", options.setup.host, service.port())},
       {"engine", service.desk().info().id},
       {"token", !options.setup.token.empty()}});
  // For who started it and needs to know where.
  std::cout << fmt::format("http://{}:{}", options.setup.host, service.port()) << std::endl;
  int signal = 0;
  sigwait(&ends, &signal);
  log({{"event", "closing"}, {"signal", signal}});
  service.close();
  const auto counts = service.desk().counts();
  log({{"event", "closed"}, {"done", counts.done}, {"failed", counts.failed}, {"cancelled", counts.cancelled}});
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  QCoreApplication application(argc, argv);
  Options options;
  CLI::App app{"An engine behind HTTP: the built-in stand-in, which is a simulation, or a program of yours"};
  auto& setup = options.setup;
  auto& limits = setup.limits;
  app.add_option("--host", setup.host, "Address to listen on; beyond this machine only with a token")
      ->capture_default_str();
  app.add_option("--port", setup.port, "Port; 0: any that is free, said on standard output")
      ->check(CLI::Range(0, 65535))
      ->capture_default_str();
  app.add_option("--token-file", options.tokenFile, "A file with the token that is asked for (Authorization: Bearer)");
  app.add_option("--name", setup.name, "Name of this service, with which its jobs begin; letters, digits, dashes")
      ->check([](const std::string& name) {
        const bool good =
            !name.empty() && name.size() <= 40 &&
            std::all_of(name.begin(), name.end(), [](unsigned char c) { return std::isalnum(c) != 0 || c == '-'; });
        return good ? std::string() : std::string("letters, digits and dashes, up to 40");
      })
      ->capture_default_str();
  app.add_option("--program", options.program, "A program makes the proofs: its command, with {job} and {out}");
  app.add_option("--maps", options.maps,
                 "How the program wants its maps: dark-lines, near-dark, 8-bit, at-frame, or KIND=NAME");
  app.add_option("--inks", options.inks, "Inks in which the program wants its poses: a JSON file");
  app.add_option("--family", options.families, "A family of models that the program has");
  app.add_option("--most-megapixels", options.mostMegapixels, "How much the program makes at once")
      ->check(CLI::Range(0.0, programMegapixels.most));
  app.add_option("--body", options.bodyMegabytes, "Megabytes that a job may have")
      ->check(CLI::Range(0.01, 4096.0))
      ->capture_default_str();
  app.add_option("--megapixels", options.megapixels, "Megapixels that a picture or map may have")
      ->check(CLI::Range(0.001, 400.0))
      ->capture_default_str();
  app.add_option("--nice", options.nice,
                 "How far it steps back for whoever works at this machine: 0 not at all, 19 most")
      ->check(CLI::Range(0, 19))
      ->capture_default_str();
  app.add_option("--waiting", limits.waiting, "Jobs that may wait")
      ->check(CLI::Range(0, 100'000))
      ->capture_default_str();
  app.add_option("--seconds", limits.seconds, "Seconds that a job may run")
      ->check(CLI::Range(0.1, 86'400.0))
      ->capture_default_str();
  app.add_option("--streams", limits.streams, "Streams of events at the same time")
      ->check(CLI::Range(1, 4096))
      ->capture_default_str();
  app.add_option("--keep", limits.keptSeconds, "Seconds that a job that has ended can be asked for")
      ->check(CLI::Range(1.0, 86'400.0))
      ->capture_default_str();
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    return app.exit(error) == 0 ? 0 : 2;
  }
  try {
    return serve(options);
  } catch (const Problem& problem) {
    std::cerr << "hscaffold-engine: " << problem.what() << "\n";
    return problem.kind() == Problem::Kind::badInput ? 1 : 3;
  } catch (const std::exception& error) {
    std::cerr << "hscaffold-engine: " << error.what() << "\n";
    return 3;
  }
}
