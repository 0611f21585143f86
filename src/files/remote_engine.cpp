#include "files/remote_engine.h"

#include <fmt/format.h>
#include <httplib.h>

#include <chrono>
#include <nlohmann/json.hpp>
#include <random>
#include <regex>
#include <thread>

#include "core/base64.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/job/job_folder.h"
#include "core/job/maps_wanted.h"
#include "files/engine_protocol.h"
#include "files/program_engine.h"

namespace hscaffold {
namespace {

constexpr std::size_t mostAnswer = std::size_t{1} << 20;  ///< bytes of an answer that is no picture
constexpr int tries = 6;                                  ///< to reach it, in a row

struct Address {
  std::string base, root;  ///< "http://host:8431", "/sub"
};

Address addressOf(const std::string& text) {
  static const std::regex form(R"((https?://(?:[A-Za-z0-9.-]+|\[[0-9A-Fa-f:.]+\])(?::\d{1,5})?)(/[A-Za-z0-9._~/-]*)?)");
  std::smatch parts;
  if (text.size() > 500 || !std::regex_match(text, parts, form))
    throw badInput("\"" + fittedText(text, 80) + "\" is no address: it should look like http://127.0.0.1:8431.");
  Address address{parts[1], parts[2]};
  while (!address.root.empty() && address.root.back() == '/') address.root.pop_back();
  return address;
}

std::string inWords(httplib::Error error) {
  switch (error) {
    case httplib::Error::Connection:
      return "nothing listens there";
    case httplib::Error::ConnectionTimeout:
      return "it takes too long";
    case httplib::Error::Read:
      return "it broke off, or says nothing";
    case httplib::Error::Write:
      return "it takes nothing";
    case httplib::Error::SSLConnection:
    case httplib::Error::SSLLoadingCerts:
    case httplib::Error::SSLServerVerification:
      return "its certificate is not one that this machine trusts";
    default:
      return httplib::to_string(error);
  }
}

/// One conversation: a client that is made so that a stop ends whatever it waits for.
class Talk {
 public:
  Talk(const RemoteSetup& setup, const Address& address, const StopToken& stop)
      : name_(setup.name), root_(address.root), client_(address.base), stop_(stop), whenStopped_(stop, [this] {
          client_.stop();
        }) {
    client_.set_connection_timeout(std::chrono::milliseconds(static_cast<int>(std::min(10.0, setup.patience) * 1000)));
    client_.set_read_timeout(std::chrono::milliseconds(static_cast<int>(setup.patience * 1000)));
    client_.set_write_timeout(std::chrono::milliseconds(static_cast<int>(setup.patience * 1000)));
    client_.set_follow_location(false);
    client_.set_keep_alive(true);
    client_.set_tcp_nodelay(true);
    if (!setup.token.empty()) headers_.emplace("Authorization", "Bearer " + setup.token);
  }

  struct Answer {
    int status = 0;  ///< 0: nothing came
    std::string body, why;
  };
  /// @param most  bytes of the body that are read; more is no right answer. @throws Cancelled
  Answer get(const std::string& path, std::size_t most) {
    Answer answer;
    bool tooLong = false;
    auto result = client_.Get(root_ + path, headers_, [&](const char* data, std::size_t length) {
      tooLong = answer.body.size() + length > most;
      if (!tooLong) answer.body.append(data, length);
      return !tooLong && !stop_.stop_requested();
    });
    throwIfStopped(stop_);
    if (tooLong) throw failed(name_ + " answers with more than a right answer could have.");
    return finished(std::move(answer), result);
  }
  Answer post(const std::string& path, const httplib::MultipartFormDataItems& items, const std::string& key) {
    auto headers = headers_;
    headers.emplace("Idempotency-Key", key);
    auto result = client_.Post(root_ + path, headers, items);
    throwIfStopped(stop_);
    Answer answer;
    if (result) answer.body = result->body.substr(0, mostAnswer);
    return finished(std::move(answer), result);
  }
  /// Whether it was heard is not asked.
  void remove(const std::string& path) { static_cast<void>(client_.Delete(root_ + path, headers_)); }
  /// Events as they come. @param take  returns whether it wants more
  Answer follow(const std::string& path, std::int64_t after, const std::function<bool(const ServiceEvent&)>& take) {
    auto headers = headers_;
    headers.emplace("Accept", "text/event-stream");
    if (after > 0) headers.emplace("Last-Event-ID", std::to_string(after));
    Answer answer;
    EventReader reader;
    std::exception_ptr thrown;
    bool isStream = false;
    auto result = client_.Get(
        root_ + path, headers,
        [&](const httplib::Response& response) {
          isStream = response.status == 200;
          if (isStream && !response.get_header_value("Content-Type").starts_with("text/event-stream"))
            thrown = std::make_exception_ptr(failed(name_ + " sends no events where events were asked for."));
          return thrown == nullptr;
        },
        [&](const char* data, std::size_t length) {
          if (stop_.stop_requested()) return false;
          if (!isStream) {
            answer.body.append(data, std::min(length, mostAnswer - std::min(mostAnswer, answer.body.size())));
            return answer.body.size() < mostAnswer;
          }
          try {
            for (const ServiceEvent& event : reader.add(data, length))
              if (!take(event)) return false;
          } catch (...) {
            thrown = std::current_exception();
            return false;
          }
          return true;
        });
    throwIfStopped(stop_);
    if (thrown) std::rethrow_exception(thrown);
    return finished(std::move(answer), result);
  }

 private:
  static Answer finished(Answer answer, const httplib::Result& result) {
    if (result)
      answer.status = result->status;
    else
      answer.why = inWords(result.error());
    return answer;
  }
  std::string name_, root_;
  httplib::Client client_;
  httplib::Headers headers_;
  StopToken stop_;
  std::stop_callback<std::function<void()>> whenStopped_;
};

/// In a sentence, what an answer that is not the wanted one means.
Problem troubleWith(const std::string& name, const Talk::Answer& answer) {
  if (answer.status == 0) return failedForNow(fmt::format("{} does not answer ({}).", name, answer.why));
  const std::string said = sentenceIn(answer.body);
  if (answer.status == 401 || answer.status == 403)
    return failed(name + " refuses: the token that it has for this machine is not the right one, or missing.");
  if (answer.status >= 300 && answer.status < 400)
    return failed(fmt::format("{} sends somewhere else ({}): give the address itself.", name, answer.status));
  const bool passes = answer.status == 429 || answer.status >= 500;
  return {Problem::Kind::failed,
          said.empty() ? fmt::format("{} answers with {}, without saying why.", name, answer.status)
                       : fmt::format("{}: {}", name, said),
          passes};
}

std::string freshKey() {
  std::random_device dice;
  return fmt::format("{:08x}{:08x}{:08x}{:08x}", dice(), dice(), dice(), dice());
}

/// Waits, longer each time, as long as nobody stops it.
void pause(int number, const StopToken& stop) {
  for (int i = 0; i < 4 << std::min(number, 5); ++i) {
    throwIfStopped(stop);
    std::this_thread::sleep_for(std::chrono::milliseconds(25));
  }
}

nlohmann::json jsonIn(const std::string& name, const std::string& text) {
  try {
    return parseJson(text, "The answer of " + name);
  } catch (const Problem&) {
    throw failed(name + " answers with something that is no JSON: it may be another service.");
  }
}

}  // namespace

RemoteEngine::RemoteEngine(RemoteSetup setup) : setup_(std::move(setup)) {
  Talk talk(setup_, addressOf(setup_.address), {});
  const auto answer = talk.get(std::string(protocolRoot) + "/engine", mostAnswer);
  if (answer.status != 200) throw troubleWith(setup_.name, answer);
  try {
    info_ = engineFromJson(jsonIn(setup_.name, answer.body), "The engine at " + setup_.address);
  } catch (const Problem& problem) {
    throw failed(problem.what());
  }
  const std::string title = info_.title;
  info_.name = setup_.name;
  info_.title = setup_.name;
  info_.note = title + " at " + setup_.address + ". " + info_.note;
  info_.elsewhere = true;
  if (setup_.maps) info_.maps = *setup_.maps;
}

double RemoteEngine::estimate(const Recipe& recipe) const {
  return 50 + perMegapixel_.load() * static_cast<double>(recipe.frame.area()) / 1e6;
}

Image<Rgb8> RemoteEngine::generate(const EngineJob& job, const EngineSink& sink, StopToken stop) {
  checkJob(job, info_);
  const auto begun = std::chrono::steady_clock::now();
  const Address address = addressOf(setup_.address);
  httplib::MultipartFormDataItems items;
  for (auto& [name, bytes] : jobFiles(asWanted(job, info_.maps)))
    items.push_back({name, textOf(bytes), name, name.ends_with(".json") ? "application/json" : "image/png"});
  const std::string key = freshKey(), jobs = std::string(protocolRoot) + "/jobs";
  std::string id;
  // Who does not want it any more says so on a line of its own: the one that waits was cut.
  const auto giveUp = [&] {
    if (id.empty()) return;
    RemoteSetup hasty = setup_;
    hasty.patience = 1;
    Talk(hasty, address, {}).remove(jobs + "/" + id);
  };
  try {
    EngineProgress progress{0, std::max(1, job.recipe.brief.steps), {}};
    std::int64_t heard = 0;
    std::string trouble;
    bool passes = false, done = false, cancelled = false;
    const auto hear = [&](const ServiceEvent& event) {
      heard = std::max(heard, event.id);
      const auto json = nlohmann::json::parse(event.data, nullptr, false);
      if (!json.is_object()) return true;
      if (event.type == "step") {
        progress.step = std::clamp(json.value("step", 0), 0, 1'000'000);
        progress.steps = std::clamp(json.value("steps", progress.steps), 1, 1'000'000);
        if (sink) sink(progress);
      } else if (event.type == "preview" && sink) {
        const auto png = fromBase64(json.value("png", std::string()));
        if (!png) return true;
        try {
          const auto picture = std::make_shared<const Image<Rgb8>>(decodePngRgb8(*png));
          progress.preview = [picture] { return picture->clone(); };
          sink(progress);
          progress.preview = {};
        } catch (const Problem&) {
          // Only a look at it: the proof is another matter.
        }
      } else if (event.type == "proof") {
        done = true;
      } else if (event.type == "failed") {
        trouble = fittedText(json.value("detail", std::string("It does not say why.")), 600);
        passes = json.value("passes", false);
      } else if (event.type == "cancelled") {
        cancelled = true;
      }
      return !done && !cancelled && trouble.empty();
    };
    int failures = 0, sent = 0;
    std::string picture;
    while (picture.empty()) {
      throwIfStopped(stop);
      Talk talk(setup_, address, stop);
      Talk::Answer answer;
      if (id.empty()) {
        answer = talk.post(jobs, items, sent == 0 ? key : key + "-" + std::to_string(sent));
        if (answer.status == 202) {
          const auto json = jsonIn(setup_.name, answer.body);
          if (json.is_object()) id = json.value("id", std::string());
          static const std::regex form(R"([\w.-]{1,200})");
          if (!std::regex_match(id, form)) {
            id.clear();
            throw failed(setup_.name + " takes a job and does not say under which name.");
          }
          heard = 0;
        }
      }
      if (!id.empty() && !done) {
        const std::int64_t before = heard;
        answer = talk.follow(jobs + "/" + id + "/events", heard, hear);
        if (heard > before) failures = 0;
      }
      if (!trouble.empty()) throw Problem(Problem::Kind::failed, setup_.name + ": " + trouble, passes);
      if (cancelled) throw failedForNow(setup_.name + " was told by somebody else to stop.");
      if (done) {
        const std::size_t most = static_cast<std::size_t>(job.recipe.frame.area()) * 8 + mostAnswer;
        answer = talk.get(jobs + "/" + id + "/proofs/1", most);
        if (answer.status == 200) {
          picture = std::move(answer.body);
          break;
        }
      }
      if (answer.status == 404 && !id.empty()) {
        // It was started again, and knows nothing of the job: the same job comes to the same picture.
        id.clear();
        done = false;
        heard = 0;
        ++sent;
      } else if (answer.status != 0 && answer.status != 200 && answer.status != 202 && answer.status != 429 &&
                 answer.status < 500) {
        throw troubleWith(setup_.name, answer);
      }
      if (++failures > tries) throw troubleWith(setup_.name, answer);
      pause(failures, stop);
    }
    const auto* bytes = reinterpret_cast<const std::byte*>(picture.data());
    Image<Rgb8> proof;
    try {
      proof = decodePngRgb8(std::span(bytes, picture.size()));
    } catch (const Problem&) {
      throw failed(setup_.name + " sent something that is no picture.");
    }
    if (proof.size() != job.recipe.frame)
      throw failed(fmt::format("{} made a picture of {} x {} where {} x {} was asked for.", setup_.name, proof.width(),
                               proof.height(), job.recipe.frame.width, job.recipe.frame.height));
    const double took = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count() /
                        (static_cast<double>(job.recipe.frame.area()) / 1e6);
    perMegapixel_ = 0.5 * perMegapixel_.load() + 0.5 * took;
    return proof;
  } catch (const Cancelled&) {
    giveUp();
    throw;
  }
}

}  // namespace hscaffold
