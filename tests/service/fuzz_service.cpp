// Sends a service requests that are wrong in all ways that chance finds, and asks at the end whether it still answers.
// usage: fuzz-service [COUNT [SEED]]; meant for a build with sanitizers, which speak up by themselves.
#include <arpa/inet.h>
#include <sys/socket.h>
#include <unistd.h>

#include <QCoreApplication>
#include <atomic>
#include <cstdio>
#include <map>
#include <mutex>
#include <random>
#include <thread>

#include "core/engine/standin/standin.h"
#include "core/image/atomic_file.h"
#include "core/job/job_folder.h"
#include "service/service.h"

namespace {

using namespace hscaffold;
using Dice = std::mt19937;

int roll(Dice& dice, int sides) { return static_cast<int>(dice() % static_cast<unsigned>(sides)); }

/// A small job with all that one can have.
std::map<std::string, std::string> exampleFiles() {
  EngineJob job;
  job.recipe.frame = {64, 64};
  job.recipe.brief.prompt = "a tea house, gouache";
  job.recipe.brief.steps = 4;
  job.recipe.brief.start.from = StartPicture::From::colour;
  job.start = Image<Rgb>(64, 64, Rgb{0.4f, 0.3f, 0.2f});
  for (const char* kind : {"edges", "depth", "pose"}) {
    RecipeGuide entry;
    entry.guide.kind = entry.guide.name = entry.guide.id = kind;
    job.recipe.guides.push_back(entry);
    GuideInput input;
    input.map = Map(64, 64, 12'345);
    if (std::string(kind) == "pose") input.colour = ColourMap(64, 64, Rgb8{9, 8, 7});
    input.region = Map(64, 64, 40'000);
    job.inputs.push_back(std::move(input));
  }
  std::map<std::string, std::string> files;
  for (const auto& [name, bytes] : jobFiles(job)) files[name] = textOf(bytes);
  return files;
}

std::string bodyOf(const std::map<std::string, std::string>& files) {
  std::string body;
  for (const auto& [name, content] : files)
    body += "--m\r\nContent-Disposition: form-data; name=\"" + name + "\"; filename=\"" + name + "\"\r\n\r\n" +
            content + "\r\n";
  return body + "--m--\r\n";
}

std::string mutated(std::string text, Dice& dice) {
  static const std::vector<std::string> odd{
      "-1",  "1e999",   "\"",       "{",    "[[[[",   "null", "99999999999999999999", "\xff\xfe", std::string(1, '\0'),
      "../", "%2e%2e/", "\r\n\r\n", "true", "\\u0000"};
  for (int changes = 1 + roll(dice, 5); changes > 0 && !text.empty(); --changes) {
    const auto at = static_cast<std::size_t>(roll(dice, static_cast<int>(text.size())));
    switch (roll(dice, 6)) {
      case 0:
        text[at] = static_cast<char>(roll(dice, 256));
        break;
      case 1:
        text.erase(at, 1 + static_cast<std::size_t>(roll(dice, 40)));
        break;
      case 2:
        text.insert(at, odd[static_cast<std::size_t>(roll(dice, static_cast<int>(odd.size())))]);
        break;
      case 3:
        text.insert(at, text.substr(at > 30 ? at - 30 : 0, 30));
        break;
      case 4:
        text.replace(at, std::min<std::size_t>(4, text.size() - at), odd[at % odd.size()]);
        break;
      default:
        if (roll(dice, 4) == 0) text.resize(at);
    }
  }
  return text;
}

std::string request(const std::map<std::string, std::string>& files, Dice& dice) {
  const auto post = [&](const std::string& body, const std::string& type = "multipart/form-data; boundary=m") {
    return "POST /v1/jobs HTTP/1.1\r\nHost: x\r\nConnection: close\r\nContent-Type: " + type +
           "\r\nContent-Length: " + std::to_string(body.size()) + "\r\n\r\n" + body;
  };
  switch (roll(dice, 8)) {
    case 0:
    case 1:
    case 2: {
      // One file of a job is wrong, most often its recipe.
      auto wrong = files;
      auto which = wrong.find("recipe.json");
      if (roll(dice, 2) == 0) which = std::next(wrong.begin(), roll(dice, static_cast<int>(wrong.size())));
      which->second = mutated(which->second, dice);
      if (roll(dice, 10) == 0) wrong.erase(std::next(wrong.begin(), roll(dice, static_cast<int>(wrong.size()))));
      return post(bodyOf(wrong));
    }
    case 3:
      return post(mutated(bodyOf(files), dice));
    case 4:
      return mutated(post(bodyOf(files)), dice);
    case 5:
      return post(bodyOf(files), mutated("multipart/form-data; boundary=m", dice));
    case 6:
      return mutated("GET /v1/jobs/engine-" + std::to_string(roll(dice, 50)) +
                         (roll(dice, 2) == 0 ? "/events" : "/proofs/1") +
                         " HTTP/1.1\r\nHost: x\r\nConnection: close\r\nLast-Event-ID: 5\r\n\r\n",
                     dice);
    default:
      return mutated("DELETE /v1/jobs/engine-" + std::to_string(roll(dice, 50)) +
                         " HTTP/1.1\r\nHost: x\r\nConnection: close\r\nAuthorization: Bearer x\r\n\r\n",
                     dice);
  }
}

/// The status that is answered; 0 for none in the time.
int asked(int port, const std::string& text, int milliseconds) {
  const int line = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_port = htons(static_cast<std::uint16_t>(port));
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  const timeval patience{milliseconds / 1000, (milliseconds % 1000) * 1000};
  ::setsockopt(line, SOL_SOCKET, SO_RCVTIMEO, &patience, sizeof patience);
  ::setsockopt(line, SOL_SOCKET, SO_SNDTIMEO, &patience, sizeof patience);
  int status = 0;
  if (::connect(line, reinterpret_cast<const sockaddr*>(&address), sizeof address) == 0) {
    std::size_t sent = 0;
    while (sent < text.size()) {
      const auto n = ::send(line, text.data() + sent, text.size() - sent, MSG_NOSIGNAL);
      if (n <= 0) break;
      sent += static_cast<std::size_t>(n);
    }
    char head[64] = {};
    if (::recv(line, head, sizeof head - 1, 0) > 12) status = std::atoi(head + 9);
  }
  ::close(line);
  return status;
}

}  // namespace

int main(int argc, char** argv) {
  QCoreApplication application(argc, argv);
  const int count = argc > 1 ? std::atoi(argv[1]) : 100'000;
  const unsigned seed = argc > 2 ? static_cast<unsigned>(std::atoi(argv[2])) : 1;
  ServiceSetup setup;
  setup.port = 0;
  setup.limits.pixels = 100'000;
  setup.limits.waiting = 4;
  setup.limits.seconds = 5;
  setup.limits.keptSeconds = 2;
  Service service(std::make_shared<StandinEngine>(), setup, {});
  const auto files = exampleFiles();
  std::atomic<int> next = 0;
  std::mutex mutex;
  std::map<int, int> statuses;
  {
    std::vector<std::jthread> threads;
    for (unsigned t = 0; t < 8; ++t)
      threads.emplace_back([&, t] {
        Dice dice(seed * 1000 + t);
        for (int n = next++; n < count; n = next++) {
          const int status = asked(service.port(), request(files, dice), 400);
          const std::lock_guard lock(mutex);
          ++statuses[status];
          if ((n + 1) % 10'000 == 0) std::printf("%d\n", n + 1), std::fflush(stdout);
        }
      });
  }
  for (const auto& [status, times] : statuses) std::printf("%d: %d times\n", status, times);
  const auto counts = service.desk().counts();
  std::printf("jobs done %lld, failed %lld, cancelled %lld\n", static_cast<long long>(counts.done),
              static_cast<long long>(counts.failed), static_cast<long long>(counts.cancelled));
  const bool isAlive =
      asked(service.port(), "GET /health HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n", 5000) == 200;
  std::printf(isAlive ? "it answers\n" : "it does not answer any more\n");
  return isAlive ? 0 : 1;
}
