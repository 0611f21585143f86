/// An engine behind HTTP: the routes of docs/engine.openapi.yaml.
#pragma once

#include <memory>
#include <string>

#include "service/job_desk.h"

namespace hscaffold {

struct ServiceSetup {
  std::string host = "127.0.0.1";
  int port = 8431;    ///< 0: any that is free
  std::string token;  ///< without it nothing is answered but `/health`; empty: nobody is asked for one
  std::string name = "engine";
  ServiceLimits limits;
};

class Service {
 public:
  /// Listens from here on. @throws Problem (badInput) for an address beyond this machine without a token, (failed) if
  /// the port is taken.
  Service(std::shared_ptr<Engine> engine, ServiceSetup setup, JobDesk::Log log);
  ~Service();
  Service(const Service&) = delete;
  [[nodiscard]] int port() const;
  [[nodiscard]] JobDesk& desk();
  /// Takes nothing more, makes what it has, gives the streams time to hear of it, and closes.
  void close();

 private:
  struct Parts;
  std::unique_ptr<Parts> parts_;
};

}  // namespace hscaffold
