#include "files/engine_protocol.h"

#include <fmt/format.h>

#include <QByteArray>
#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/guides/json_fields.h"
#include "core/job/maps_wanted.h"
#include "core/json_text.h"
#include "core/kinds.h"

namespace hscaffold {
namespace {

struct Named {
  const char* name;
  bool Understood::*member;
};
constexpr Named understood[] = {{"ranges", &Understood::ranges},
                                {"ramps", &Understood::ramps},
                                {"regions", &Understood::regions},
                                {"start-pictures", &Understood::startPictures},
                                {"words-to-words", &Understood::wordsToWords},
                                {"avoid", &Understood::avoid},
                                {"emphasis", &Understood::emphasis},
                                {"touch-ups", &Understood::touchUps},
                                {"wanted-colours", &Understood::colours}};

constexpr std::int64_t mostPixels = std::int64_t{1} << 40;

/// Those of newer versions are not for this program.
std::vector<std::string> kindsFromJson(const nlohmann::json& list) {
  std::vector<std::string> out;
  for (const auto& each : list)
    if (each.is_string() && out.size() < kinds().size())
      if (const auto id = each.get<std::string>();
          std::any_of(kinds().begin(), kinds().end(), [&](const Kind& kind) { return kind.id == id; }))
        out.push_back(id);
  return out;
}

}  // namespace

nlohmann::json engineToJson(const EngineInfo& info) {
  nlohmann::json json{{"name", info.name},
                      {"id", info.id},
                      {"title", info.title},
                      {"note", info.note},
                      {"size-step", info.sizeStep},
                      {"most-pixels", info.mostPixels},
                      {"part-pixels", info.partPixels},
                      {"favourite", info.favourite},
                      {"kinds", info.kinds},
                      {"lanes", info.lanes},
                      {"one-scale", info.oneScale},
                      {"maps", mapsWantedToJson(info.maps)}};
  for (const EngineFamily& family : info.families)
    json["families"].push_back(family.kinds.empty() ? nlohmann::json{{"name", family.name}}
                                                    : nlohmann::json{{"name", family.name}, {"kinds", family.kinds}});
  for (const Named& each : understood) json["understands"][each.name] = info.understands.*each.member;
  return json;
}

EngineInfo engineFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  EngineInfo info;
  info.name = fittedText(fields.text("name"), longestName);
  info.id = fittedText(fields.text("id"), longestName);
  info.title = fittedText(fields.text("title", info.name), longestName);
  info.note = fittedText(fields.text("note", ""), 1000);
  info.sizeStep = static_cast<int>(fields.integer("size-step", limits::sizeStep, info.sizeStep));
  info.mostPixels = fields.integer("most-pixels", 0, mostPixels, 0);
  info.partPixels = fields.integer("part-pixels", 0, mostPixels, 0);
  info.favourite = static_cast<int>(fields.integer("favourite", limits::side, info.favourite));
  info.kinds = kindsFromJson(fields.list("kinds"));
  constexpr std::size_t mostFamilies = 100;
  if (fields.has("families"))
    for (const auto& one : fields.list("families")) {
      if (info.families.size() >= mostFamilies) break;
      JsonFields family(one, where + ", families");
      EngineFamily read{fittedText(family.text("name"), longestName), {}};
      if (family.has("kinds")) read.kinds = kindsFromJson(family.list("kinds"));
      info.families.push_back(std::move(read));
    }
  info.lanes = static_cast<int>(fields.integer("lanes", 1, 64, 1));
  info.oneScale = fields.flag("one-scale", false);
  if (fields.has("maps")) info.maps = mapsWantedFromJson(fields.child("maps"), where + ", maps");
  if (fields.has("understands")) {
    JsonFields own(fields.child("understands"), where + ", understands");
    for (const Named& each : understood)
      info.understands.*each.member = own.flag(each.name, info.understands.*each.member);
  }
  return info;
}

std::string problemText(int status, const std::string& title, const std::string& detail) {
  return jsonText({{"type", "about:blank"}, {"title", title}, {"status", status}, {"detail", detail}});
}

std::string sentenceIn(const std::string& body) {
  const auto json = nlohmann::json::parse(body, nullptr, false);
  if (!json.is_object() || !json.contains("detail") || !json["detail"].is_string()) return {};
  return fittedText(json["detail"].get<std::string>(), 600);
}

std::string eventText(const ServiceEvent& event) {
  return fmt::format("id: {}\nevent: {}\ndata: {}\n\n", event.id, event.type, event.data);
}

std::vector<ServiceEvent> EventReader::add(const char* data, std::size_t length) {
  open_.append(data, length);
  std::vector<ServiceEvent> events;
  std::size_t end = 0;
  while ((end = open_.find("\n\n")) != std::string::npos) {
    ServiceEvent event;
    std::size_t at = 0;
    while (at < end) {
      const std::size_t line = std::min(end, open_.find('\n', at));
      std::string text = open_.substr(at, line - at);
      at = line + 1;
      if (!text.empty() && text.back() == '\r') text.pop_back();
      const auto value = [&](const char* name) -> std::optional<std::string> {
        const std::string start = std::string(name) + ":";
        if (!text.starts_with(start)) return {};
        return text.substr(start.size() + (text.size() > start.size() && text[start.size()] == ' ' ? 1 : 0));
      };
      if (const auto id = value("id"))
        event.id = std::strtoll(id->c_str(), nullptr, 10);
      else if (const auto type = value("event"))
        event.type = *type;
      else if (const auto more = value("data"))
        event.data += (event.data.empty() ? "" : "\n") + *more;
    }
    open_.erase(0, end + 2);
    if (!event.type.empty() || !event.data.empty()) events.push_back(std::move(event));
  }
  if (open_.size() > most_) throw failed("It sends an event without an end.");
  return events;
}

bool isLoopback(const std::string& host) { return host == "localhost" || host == "::1" || host.starts_with("127."); }

}  // namespace hscaffold
