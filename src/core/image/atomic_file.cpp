#include "core/image/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <random>
#include <tuple>
#include <utility>

#include "core/problem.h"

namespace hscaffold {
namespace {

namespace fs = std::filesystem;

class Descriptor {
 public:
  explicit Descriptor(int number) : number_(number) {}
  Descriptor(const Descriptor&) = delete;
  Descriptor& operator=(const Descriptor&) = delete;
  ~Descriptor() {
    if (number_ >= 0) ::close(number_);
  }
  [[nodiscard]] int number() const { return number_; }
  int close() {
    const int result = ::close(number_);
    number_ = -1;
    return result;
  }

 private:
  int number_;
};

Problem notWritten(const fs::path& path, const std::string& why) {
  return failed("Could not write " + path.string() + ": " + why + ". Nothing was changed there.");
}

/// Where links lead, also to what is not there yet.
fs::path behindLinks(fs::path path) {
  constexpr int most = 40;
  for (int i = 0; i < most; ++i) {
    std::error_code error;
    if (!fs::is_symlink(fs::symlink_status(path, error))) return path;
    const fs::path to = fs::read_symlink(path, error);
    if (error) return path;
    path = to.is_absolute() ? to : path.parent_path() / to;
  }
  throw notWritten(path, "links lead in a circle");
}

fs::path folderOf(const fs::path& path) { return path.has_parent_path() ? path.parent_path() : fs::path("."); }

/// A short name beside the file that nobody has. @return the path, with a file open for writing
std::pair<std::string, int> freshBeside(const fs::path& folder) {
  std::string name = (folder / ".hscaffold-XXXXXX").string();
  const int file = ::mkostemp(name.data(), O_CLOEXEC);
  return {name, file};
}

/// Content on its way to the disk. It has no name until all of it is there, where the file system can do that: who is
/// killed leaves nothing behind.
class Arriving {
 public:
  explicit Arriving(const fs::path& path) : path_(path), folder_(folderOf(path)) {
    file_ = ::open(folder_.c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, 0600);
    if (file_ < 0) named();
    if (file_ < 0) throw notWritten(path_, std::strerror(errno));
  }
  Arriving(const Arriving&) = delete;
  Arriving& operator=(const Arriving&) = delete;
  ~Arriving() {
    if (!name_.empty()) ::unlink(name_.c_str());
    if (file_ >= 0) ::close(file_);
  }

  void take(std::span<const std::byte> bytes) const {
    std::size_t done = 0;
    while (done < bytes.size()) {
      const ssize_t count = ::write(file_, bytes.data() + done, bytes.size() - done);
      if (count < 0 && errno == EINTR) continue;
      if (count <= 0) throw notWritten(path_, std::strerror(count == 0 ? ENOSPC : errno));
      done += static_cast<std::size_t>(count);
    }
  }

  /// Under its name, in one step. @param mode  permissions
  void arrive(mode_t mode) {
    // A file system without permissions, or without a way to be sure, has the file all the same.
    const bool allowed = ::fchmod(file_, mode) == 0 || errno == EPERM || errno == ENOTSUP;
    if (!allowed || (::fsync(file_) != 0 && errno != EINVAL && errno != ENOTSUP))
      throw notWritten(path_, std::strerror(errno));
    if (name_.empty()) nameIt();
    if (::rename(name_.c_str(), path_.c_str()) != 0) throw notWritten(path_, std::strerror(errno));
    name_.clear();
    ::close(std::exchange(file_, -1));  // all of it is on the disk already
    Descriptor directory(::open(folder_.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (directory.number() >= 0) ::fsync(directory.number());
  }

 private:
  void named() { std::tie(name_, file_) = freshBeside(folder_); }

  /// A name beside the file, from where it can take the place of what is there.
  void nameIt() {
    const std::string open = fmt::format("/proc/self/fd/{}", file_);
    std::random_device chance;
    constexpr int most = 100;
    for (int i = 0; i < most; ++i) {
      std::string name = (folder_ / fmt::format(".hscaffold-{:08x}", chance())).string();
      if (::linkat(AT_FDCWD, open.c_str(), AT_FDCWD, name.c_str(), AT_SYMLINK_FOLLOW) == 0) {
        name_ = std::move(name);
        return;
      }
      if (errno != EEXIST) break;
    }
    throw notWritten(path_, std::strerror(errno));
  }

  fs::path path_, folder_;
  std::string name_;  ///< of the file that is not in its place yet; empty: it has none
  int file_ = -1;
};

/// Permissions of what is there, or those of an ordinary file under the person's own umask.
mode_t modeFor(const fs::path& path) {
  struct stat there {};
  if (::stat(path.c_str(), &there) == 0) {
    if (S_ISDIR(there.st_mode)) throw notWritten(path, "it is a folder");
    if (!S_ISREG(there.st_mode)) throw notWritten(path, "it is a pipe or a device and no file; - is standard output");
    return there.st_mode & 0777;
  }
  const mode_t mask = ::umask(0);
  ::umask(mask);
  return 0666 & ~mask;
}

}  // namespace

void writeFileAtomically(const fs::path& path, std::span<const std::byte> bytes) {
  const fs::path to = behindLinks(path);
  const mode_t mode = modeFor(to);
  Arriving arriving(to);
  arriving.take(bytes);
  arriving.arrive(mode);
}

Bytes readAll(int descriptor, const std::string& name, std::size_t limit) {
  const auto unreadable = [&](const std::string& why) { return badInput("Could not read " + name + ": " + why + "."); };
  constexpr int longestSilence = 10'000;  // milliseconds
  struct stat status {};
  if (::fstat(descriptor, &status) != 0) throw unreadable(std::strerror(errno));
  const bool regular = S_ISREG(status.st_mode);
  const char* const tooLarge = "it is larger than can be worked with";
  Bytes bytes;
  if (regular) {
    if (static_cast<std::size_t>(std::max<off_t>(status.st_size, 0)) > limit) throw unreadable(tooLarge);
    bytes.reserve(static_cast<std::size_t>(std::max<off_t>(status.st_size, 0)) + 1);
  }
  for (;;) {
    const std::size_t before = bytes.size();
    if (before > limit) throw unreadable(tooLarge);
    constexpr std::size_t step = 1 << 20;
    bytes.resize(before + std::max(step, bytes.capacity() - before));
    const ssize_t count = ::read(descriptor, bytes.data() + before, bytes.size() - before);
    const int error = errno;
    bytes.resize(before + static_cast<std::size_t>(std::max<ssize_t>(count, 0)));
    if (count == 0) return bytes;
    if (count > 0 || error == EINTR) continue;
    if (error != EAGAIN) throw unreadable(std::strerror(error));
    pollfd waits{descriptor, POLLIN, 0};
    if (::poll(&waits, 1, longestSilence) == 0)
      throw unreadable(fmt::format("nothing came for {} seconds", longestSilence / 1000));
  }
}

Bytes readWholeFile(const fs::path& path, std::size_t limit) {
  const std::string name = path.string();
  const auto unreadable = [&](const std::string& why) { return badInput("Could not read " + name + ": " + why + "."); };
  // A pipe that nobody writes into does not hold anybody up.
  Descriptor file(::open(name.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
  if (file.number() < 0) throw unreadable(errno == ENOENT ? "there is no such file" : std::strerror(errno));
  struct stat status {};
  if (::fstat(file.number(), &status) != 0) throw unreadable(std::strerror(errno));
  if (S_ISDIR(status.st_mode)) throw unreadable("it is a folder, not a file");
  if (S_ISCHR(status.st_mode) || S_ISBLK(status.st_mode)) throw unreadable("it is a device, not a file");
  return readAll(file.number(), name, limit);
}

}  // namespace hscaffold
