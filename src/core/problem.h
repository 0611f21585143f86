/// How the core says that something is wrong: `Problem` at its borders, `Cancelled` when asked to stop.
#pragma once

#include <stdexcept>
#include <stop_token>
#include <string>

namespace hscaffold {

using StopToken = std::stop_token;

/// One clear sentence for the person in front of the screen: which file, what is wrong, what to do.
class Problem : public std::runtime_error {
 public:
  enum class Kind {
    badInput,  ///< what was given cannot be used; giving something else helps
    failed     ///< the machine or the engine could not do it (disk full, connection lost, a bug)
  };
  Problem(Kind kind, const std::string& sentence, bool passes = false)
      : std::runtime_error(sentence), kind_(kind), passes_(passes) {}
  [[nodiscard]] Kind kind() const { return kind_; }
  /// Whether trying the same again later makes sense: a connection was lost, an engine is busy.
  [[nodiscard]] bool passes() const { return passes_; }

 private:
  Kind kind_;
  bool passes_;
};

inline Problem badInput(const std::string& sentence) { return {Problem::Kind::badInput, sentence}; }
inline Problem failed(const std::string& sentence) { return {Problem::Kind::failed, sentence}; }
inline Problem failedForNow(const std::string& sentence) { return {Problem::Kind::failed, sentence, true}; }

/// Thrown by long computations when their stop token was used; nothing half done is returned.
class Cancelled : public std::exception {
 public:
  [[nodiscard]] const char* what() const noexcept override { return "cancelled"; }
};

inline void throwIfStopped(const StopToken& stop) {
  if (stop.stop_requested()) throw Cancelled();
}

}  // namespace hscaffold
