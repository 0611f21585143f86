/// The command line, run as a program of its own.
#pragma once

#include <sys/resource.h>

#include <QProcess>
#include <csignal>
#include <map>

namespace fixtures {

struct Run {
  int code = -1;
  QByteArray out, err;
};

/// @param largestFile  bytes that a file may grow to, as on a full disk; 0: no limit
/// @param environment  variables besides those that are there
inline Run run(const QStringList& arguments, const QByteArray& input = {}, std::size_t largestFile = 0,
               const std::map<QString, QString>& environment = {}) {
  QProcess process;
  auto variables = QProcessEnvironment::systemEnvironment();
  for (const auto& [name, value] : environment) variables.insert(name, value);
  process.setProcessEnvironment(variables);
  if (largestFile > 0)
    process.setChildProcessModifier([largestFile] {
      std::signal(SIGXFSZ, SIG_IGN);
      const rlimit limit{largestFile, largestFile};
      setrlimit(RLIMIT_FSIZE, &limit);
    });
  process.start(HSCAFFOLD_PROGRAM, arguments);
  process.write(input);
  process.closeWriteChannel();
  if (!process.waitForFinished(120'000)) return {};
  return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -2, process.readAllStandardOutput(),
          process.readAllStandardError()};
}

}  // namespace fixtures
