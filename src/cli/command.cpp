#include "cli/command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <cmath>
#include <iostream>

#include "core/number_text.h"

namespace hscaffold {
namespace {

CLI::Validator within(Limits limits, bool whole) {
  return CLI::Validator(
      [limits, whole](std::string& text) -> std::string {
        const auto value = numberFrom(text);
        if (!value) return "\"" + text + "\" is not a number";
        if (whole && std::trunc(*value) != *value) return "\"" + text + "\" is not a whole number";
        if (*value < limits.least || *value > limits.most)
          return fmt::format("{} is not between {} and {}", text, limits.least, limits.most);
        return {};
      },
      whole ? "WHOLE NUMBER" : "NUMBER");
}

CLI::Option* addParsed(CLI::App& app, const std::string& names, const std::string& help, Limits limits, bool whole,
                       std::function<void(double)> take) {
  return app
      .add_option(
          names,
          [take = std::move(take)](const CLI::results_t& given) {
            const auto value = numberFrom(given.front());
            if (value) take(*value);
            return value.has_value();
          },
          help)
      ->type_name("")
      ->check(within(limits, whole));
}

}  // namespace

CommandOption& CommandOption::required() {
  option_->required();
  return *this;
}
CommandOption& CommandOption::excludes(const CommandOption& other) {
  option_->excludes(other.option_);
  return *this;
}
CommandOption& CommandOption::severalAtOnce() {
  option_->allow_extra_args(true);
  return *this;
}
CommandOption& CommandOption::oneOf(const std::vector<std::string>& words) {
  option_->check(CLI::IsMember(words));
  return *this;
}

Command Command::add(const std::string& name, const std::string& help) {
  app_->require_subcommand(1);
  return {*app_->add_subcommand(name, help), *chosen_};
}

CommandOption Command::text(const std::string& names, std::string& value, const std::string& help) {
  return CommandOption(app_->add_option(names, value, help));
}
CommandOption Command::text(const std::string& names, std::optional<std::string>& value, const std::string& help) {
  return CommandOption(app_->add_option(names, value, help));
}
CommandOption Command::texts(const std::string& names, std::vector<std::string>& values, const std::string& help) {
  auto* option = app_->add_option(names, values, help);
  // One at a time: what follows is not taken for another of them.
  if (names.starts_with('-')) option->allow_extra_args(false)->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  return CommandOption(option);
}
CommandOption Command::number(const std::string& names, double& value, const std::string& help, Limits limits) {
  return CommandOption(addParsed(*app_, names, help, limits, false, [&value](double v) { value = v; }));
}
CommandOption Command::number(const std::string& names, std::optional<double>& value, const std::string& help,
                              Limits limits) {
  return CommandOption(addParsed(*app_, names, help, limits, false, [&value](double v) { value = v; }));
}
CommandOption Command::whole(const std::string& names, std::int64_t& value, const std::string& help, Limits limits) {
  return CommandOption(
      addParsed(*app_, names, help, limits, true, [&value](double v) { value = static_cast<std::int64_t>(v); }));
}
CommandOption Command::whole(const std::string& names, std::optional<std::int64_t>& value, const std::string& help,
                             Limits limits) {
  return CommandOption(
      addParsed(*app_, names, help, limits, true, [&value](double v) { value = static_cast<std::int64_t>(v); }));
}
CommandOption Command::flag(const std::string& names, bool& value, const std::string& help) {
  return CommandOption(app_->add_flag(names, value, help));
}

void Command::run(std::function<void()> call) {
  app_->callback([chosen = chosen_, call = std::move(call)] { *chosen = call; });
}

CommandLine parsedCommandLine(int argc, char** argv, bool& json, const std::function<void(Command& root)>& build) {
  CLI::App app("Control maps from references, and proofs from control maps.", "hscaffold");
  app.set_version_flag("--version", HSCAFFOLD_VERSION);
  app.add_flag("--json", json, "Print results as JSON on standard output")->configurable(false);
  app.fallthrough();
  CommandLine line;
  Command root(app, line.run);
  build(root);
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    line.exitCode = app.exit(error, std::cout, std::cerr) == 0 ? 0 : 2;
  }
  return line;
}

}  // namespace hscaffold
