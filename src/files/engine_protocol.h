/// What an engine and its service tell each other, as values: see docs/engine.openapi.yaml.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/engine/engine.h"

namespace hscaffold {

inline constexpr const char* protocolRoot = "/v1";

/// What is known of an engine, but for its words.
nlohmann::json engineToJson(const EngineInfo& info);
/// @throws Problem (badInput) naming what is wrong in it
EngineInfo engineFromJson(const nlohmann::json& json, const std::string& where);

/// Problem details (RFC 9457). @param detail  a whole sentence
std::string problemText(int status, const std::string& title, const std::string& detail);
/// The sentence in problem details; empty if it is none.
std::string sentenceIn(const std::string& body);

/// One server-sent event.
struct ServiceEvent {
  std::int64_t id = 0;
  std::string type, data;
};
std::string eventText(const ServiceEvent& event);

/// Takes a stream of events apart, however it is cut; what is longer than `most` bytes without an end is no event.
class EventReader {
 public:
  explicit EventReader(std::size_t most = std::size_t{64} << 20) : most_(most) {}
  /// The events that end in this piece. @throws Problem if one is too long
  std::vector<ServiceEvent> add(const char* data, std::size_t length);

 private:
  std::size_t most_;
  std::string open_;
};

/// Whether an address is this machine's own.
bool isLoopback(const std::string& host);

}  // namespace hscaffold
