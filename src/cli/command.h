/// A subcommand and its options, over CLI11. Numbers are read the same way whatever the desktop's language is. In a
/// file of its own because option templates take long to compile.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/limits.h"

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace hscaffold {

/// What can be said of an option after it was added.
class CommandOption {
 public:
  explicit CommandOption(CLI::Option* option) : option_(option) {}
  CommandOption& required();
  CommandOption& excludes(const CommandOption& other);
  /// For texts: as many as follow, "--references a b c".
  CommandOption& severalAtOnce();
  CommandOption& oneOf(const std::vector<std::string>& words);

 private:
  CLI::Option* option_;
};

/// The variables that options write into must live until the command has run; `run` keeps them.
class Command {
 public:
  Command(CLI::App& app, std::function<void()>& chosen) : app_(&app), chosen_(&chosen) {}
  /// A subcommand; one of them has to be given.
  Command add(const std::string& name, const std::string& help);

  CommandOption text(const std::string& names, std::string& value, const std::string& help);
  CommandOption text(const std::string& names, std::optional<std::string>& value, const std::string& help);
  /// One for each time that the option is given.
  CommandOption texts(const std::string& names, std::vector<std::string>& values, const std::string& help);
  CommandOption number(const std::string& names, double& value, const std::string& help, Limits limits = {});
  CommandOption number(const std::string& names, std::optional<double>& value, const std::string& help,
                       Limits limits = {});
  CommandOption whole(const std::string& names, std::int64_t& value, const std::string& help, Limits limits = {});
  CommandOption whole(const std::string& names, std::optional<std::int64_t>& value, const std::string& help,
                      Limits limits = {});
  CommandOption flag(const std::string& names, bool& value, const std::string& help);
  /// What happens when this command was chosen.
  void run(std::function<void()> call);

 private:
  CLI::App* app_;
  std::function<void()>* chosen_;
};

struct CommandLine {
  std::function<void()> run;    ///< of the command that was chosen
  std::optional<int> exitCode;  ///< if there is nothing to run: help was shown (0) or the usage was wrong (2)
};
/// @param json   set to whether results are wanted as JSON, before anything runs.
/// @param build  adds the commands.
CommandLine parsedCommandLine(int argc, char** argv, bool& json, const std::function<void(Command& root)>& build);

}  // namespace hscaffold
