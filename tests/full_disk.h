/// A disk that takes no more.
#pragma once

#include <sys/resource.h>

#include <csignal>

namespace fixtures {

/// While it lives the system lets no file of this process grow beyond so many bytes, as a full disk does.
class FullDisk {
 public:
  explicit FullDisk(rlim_t largest = 1) {
    std::signal(SIGXFSZ, SIG_IGN);
    getrlimit(RLIMIT_FSIZE, &before_);
    const rlimit small{largest, before_.rlim_max};
    setrlimit(RLIMIT_FSIZE, &small);
  }
  FullDisk(const FullDisk&) = delete;
  FullDisk& operator=(const FullDisk&) = delete;
  ~FullDisk() { setrlimit(RLIMIT_FSIZE, &before_); }

 private:
  rlimit before_{};
};

}  // namespace fixtures
