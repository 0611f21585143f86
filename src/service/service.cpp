#include "service/service.h"

#include <fmt/format.h>
#include <httplib.h>

#include <atomic>
#include <nlohmann/json.hpp>

#include "core/json_text.h"
#include "service/job_request.h"

namespace hscaffold {
namespace {

constexpr int plainThreads = 16;  ///< besides those that streams hold
constexpr auto patience = std::chrono::milliseconds(1000);
constexpr int stillHereEvery = 10;  ///< seconds

void answer(httplib::Response& response, int status, const nlohmann::json& json) {
  response.status = status;
  response.set_content(jsonText(json), "application/json");
}

void refuse(httplib::Response& response, const Refused& refused) {
  response.status = refused.status;
  response.set_content(problemText(refused.status, refused.title, refused.detail), "application/problem+json");
  if (refused.status == 429 || refused.status == 503) response.set_header("Retry-After", "2");
}

/// Takes as long for any two texts of one length.
bool sameSecret(const std::string& a, const std::string& b) {
  unsigned difference = a.size() == b.size() ? 0 : 1;
  for (std::size_t i = 0; i < a.size(); ++i)
    difference |= static_cast<unsigned>(static_cast<unsigned char>(a[i]) ^
                                        static_cast<unsigned char>(b[b.empty() ? 0 : i % b.size()]));
  return difference == 0;
}

AskedJob jobIn(const httplib::Request& request, const ServiceLimits& limits, const EngineInfo& info) {
  if (!request.is_multipart_form_data())
    throw Refused{415, "No job", "A job comes as multipart/form-data: recipe.json, and the files that it names."};
  std::map<std::string, std::string_view> files;
  for (const auto& [name, part] : request.files) {
    const std::string& file = part.filename.empty() ? name : part.filename;
    if (!files.emplace(file, part.content).second) throw Refused{422, "Twice", "The file " + file + " is there twice."};
  }
  return askedJob(files, limits, info);
}

}  // namespace

struct Service::Parts {
  ServiceSetup setup;
  JobDesk desk;
  httplib::Server server;
  std::atomic<int> streams = 0;
  std::atomic<bool> closing = false;
  int port = 0;
  std::jthread thread;

  Parts(std::shared_ptr<Engine> engine, ServiceSetup given, JobDesk::Log log)
      : setup(std::move(given)), desk(std::move(engine), setup.limits, setup.name, std::move(log)) {}

  template <typename Call>
  auto guarded(Call call) {
    return [call](const httplib::Request& request, httplib::Response& response) {
      try {
        call(request, response);
      } catch (const Refused& refused) {
        refuse(response, refused);
      } catch (const std::bad_alloc&) {
        refuse(response, {507, "No room", "There is not enough memory for this."});
      } catch (const std::exception& error) {
        refuse(response, {500, "Failed", error.what()});
      }
    };
  }

  static Refused noSuchJob() { return {404, "No such job", "There is no such job here, or not any more."}; }

  void addRoutes();
  void stream(const std::string& id, std::int64_t after, httplib::Response& response);
};

void Service::Parts::addRoutes() {
  server.set_pre_routing_handler([this](const httplib::Request& request, httplib::Response& response) {
    if (setup.token.empty() || request.path == "/health") return httplib::Server::HandlerResponse::Unhandled;
    if (sameSecret("Bearer " + setup.token, request.get_header_value("Authorization")))
      return httplib::Server::HandlerResponse::Unhandled;
    refuse(response, {401, "Not allowed", "A token is asked for, and this one is not it."});
    response.set_header("WWW-Authenticate", "Bearer");
    return httplib::Server::HandlerResponse::Handled;
  });
  server.set_error_handler([this](const httplib::Request&, httplib::Response& response) {
    if (!response.body.empty()) return;
    const int status = response.status;
    refuse(response, status == 413   ? Refused{413, "Too large",
                                             fmt::format("A job has up to {} MB.", setup.limits.bodyBytes >> 20)}
                     : status == 404 ? Refused{404, "Nothing here", "There is nothing at this address."}
                                     : Refused{status, "Not understood", "The request could not be read."});
  });
  server.Get("/health", [this](const httplib::Request&, httplib::Response& response) {
    const auto counts = desk.counts();
    answer(response, counts.closing ? 503 : 200,
           {{"status", counts.closing ? "closing" : "ok"},
            {"waiting", counts.waiting},
            {"running", counts.running},
            {"done", counts.done},
            {"failed", counts.failed},
            {"cancelled", counts.cancelled}});
  });
  server.Get("/v1/engine", [this](const httplib::Request&, httplib::Response& response) {
    auto json = engineToJson(desk.info());
    json["service"] = setup.name;
    json["limits"] = {{"body-bytes", setup.limits.bodyBytes},
                      {"pixels", setup.limits.pixels},
                      {"waiting", setup.limits.waiting},
                      {"seconds", setup.limits.seconds},
                      {"streams", setup.limits.streams}};
    answer(response, 200, json);
  });
  server.Post("/v1/jobs", guarded([this](const httplib::Request& request, httplib::Response& response) {
                constexpr std::size_t longestKey = 200;
                const std::string key = request.get_header_value("Idempotency-Key");
                if (key.size() > longestKey)
                  throw Refused{422, "Too long", "An idempotency key has up to 200 characters."};
                auto asked = jobIn(request, setup.limits, desk.info());
                const auto added = desk.add(std::move(asked.job), key, asked.digest);
                response.set_header("Location", "/v1/jobs/" + added.id);
                answer(response, 202, {{"id", added.id}, {"events", "/v1/jobs/" + added.id + "/events"}});
              }));
  server.Get(R"(/v1/jobs/([\w.-]{1,200}))",
             guarded([this](const httplib::Request& request, httplib::Response& response) {
               const auto state = desk.state(request.matches[1]);
               if (!state) throw noSuchJob();
               nlohmann::json json{{"id", std::string(request.matches[1])},
                                   {"state", nameOf(state->state)},
                                   {"step", state->step},
                                   {"steps", state->steps}};
               if (!state->detail.empty()) json["detail"] = state->detail;
               if (state->state == JobState::done) json["proofs"] = 1;
               answer(response, 200, json);
             }));
  server.Get(R"(/v1/jobs/([\w.-]{1,200})/events)",
             guarded([this](const httplib::Request& request, httplib::Response& response) {
               std::int64_t after = 0;
               if (request.has_header("Last-Event-ID"))
                 after = std::strtoll(request.get_header_value("Last-Event-ID").c_str(), nullptr, 10);
               stream(request.matches[1], std::clamp<std::int64_t>(after, 0, 1'000'000'000), response);
             }));
  server.Get(R"(/v1/jobs/([\w.-]{1,200})/proofs/1)",
             guarded([this](const httplib::Request& request, httplib::Response& response) {
               if (!desk.state(request.matches[1])) throw noSuchJob();
               const auto proof = desk.proof(request.matches[1]);
               if (!proof) throw Refused{404, "No proof", "The job has no proof, or not yet."};
               response.set_content(reinterpret_cast<const char*>(proof->data()), proof->size(), "image/png");
             }));
  server.Delete(R"(/v1/jobs/([\w.-]{1,200}))",
                guarded([this](const httplib::Request& request, httplib::Response& response) {
                  if (!desk.cancel(request.matches[1])) throw noSuchJob();
                  response.status = 204;
                }));
}

void Service::Parts::stream(const std::string& id, std::int64_t after, httplib::Response& response) {
  if (!desk.state(id)) throw noSuchJob();
  if (++streams > setup.limits.streams) {
    --streams;
    throw Refused{429, "Too many streams", "As many streams as can be are open: try again later."};
  }
  response.set_header("Cache-Control", "no-store");
  response.set_header("X-Accel-Buffering", "no");  // a proxy in between passes events on at once
  auto at = std::make_shared<std::int64_t>(after);
  auto quiet = std::make_shared<int>(0);
  response.set_chunked_content_provider(
      "text/event-stream",
      [this, id, at, quiet](std::size_t, httplib::DataSink& sink) {
        const auto news = desk.news(id, *at, patience);
        if (!news) {
          sink.done();
          return true;
        }
        std::string text;
        for (const ServiceEvent& event : news->events) {
          text += eventText(event);
          *at = event.id;
        }
        if (text.empty() && !news->ended && ++*quiet >= stillHereEvery) {
          text = ": still here\n\n";
          *quiet = 0;
        }
        if (!text.empty() && !sink.write(text.data(), text.size())) return false;
        if (news->ended) sink.done();
        return true;
      },
      [this](bool) { --streams; });
}

Service::Service(std::shared_ptr<Engine> engine, ServiceSetup setup, JobDesk::Log log) {
  if (!isLoopback(setup.host) && setup.token.empty())
    throw badInput("To listen on " + setup.host +
                   ", which others can reach, the service needs a token (--token-file).");
  parts_ = std::make_unique<Parts>(std::move(engine), std::move(setup), std::move(log));
  Parts& parts = *parts_;
  parts.server.new_task_queue = [streams = parts.setup.limits.streams] {
    return new httplib::ThreadPool(static_cast<std::size_t>(streams + plainThreads));
  };
  parts.server.set_payload_max_length(static_cast<std::size_t>(parts.setup.limits.bodyBytes));
  parts.server.set_keep_alive_max_count(1000);
  parts.server.set_read_timeout(30);
  parts.server.set_write_timeout(30);
  parts.server.set_tcp_nodelay(true);
  // Without this two services could share a port.
  parts.server.set_socket_options([](socket_t socket) {
    const int yes = 1;
    ::setsockopt(socket, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
  });
  parts.addRoutes();
  parts.port = parts.setup.port == 0 ? parts.server.bind_to_any_port(parts.setup.host)
               : parts.server.bind_to_port(parts.setup.host, parts.setup.port) ? parts.setup.port
                                                                               : -1;
  if (parts.port <= 0)
    throw failed(fmt::format("Could not listen on {} port {}: it is taken, or not this machine's.", parts.setup.host,
                             parts.setup.port));
  parts.thread = std::jthread([&parts] { parts.server.listen_after_bind(); });
}

Service::~Service() {
  if (parts_) parts_->server.stop();
}

int Service::port() const { return parts_->port; }

JobDesk& Service::desk() { return parts_->desk; }

void Service::close() {
  parts_->desk.finish();
  // Who listens to an event stream hears how it ended, and fetches the proof.
  constexpr int tries = 40;
  for (int i = 0; i < tries && parts_->streams > 0; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(50));
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  parts_->server.stop();
}

}  // namespace hscaffold
