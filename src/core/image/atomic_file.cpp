#include "core/image/atomic_file.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "core/problem.h"

namespace hscaffold {
namespace {

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

}  // namespace

void writeFileAtomically(const std::filesystem::path& path, std::span<const std::byte> bytes) {
  const std::string name = path.string();
  std::string temporary = (path.parent_path() / ("." + path.filename().string() + ".XXXXXX")).string();
  const auto fail = [&](int error) {
    ::unlink(temporary.c_str());
    return failed("Could not write " + name + ": " + std::strerror(error) + ". Nothing was changed there.");
  };
  Descriptor file(::mkostemp(temporary.data(), O_CLOEXEC));
  if (file.number() < 0) {
    const int error = errno;
    temporary.clear();
    throw fail(error);
  }
  std::size_t done = 0;
  while (done < bytes.size()) {
    const ssize_t count = ::write(file.number(), bytes.data() + done, bytes.size() - done);
    if (count < 0 && errno == EINTR) continue;
    if (count <= 0) throw fail(errno);
    done += static_cast<std::size_t>(count);
  }
  // mkostemp makes private files; results are ordinary files under the person's own umask.
  const mode_t mask = ::umask(0);
  ::umask(mask);
  if (::fchmod(file.number(), 0666 & ~mask) != 0 || ::fsync(file.number()) != 0 || file.close() != 0) throw fail(errno);
  if (::rename(temporary.c_str(), name.c_str()) != 0) throw fail(errno);
  const std::string folder = path.has_parent_path() ? path.parent_path().string() : ".";
  Descriptor directory(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (directory.number() >= 0) ::fsync(directory.number());
}

Bytes readWholeFile(const std::filesystem::path& path, std::size_t limit) {
  const std::string name = path.string();
  const auto unreadable = [&](const std::string& why) { return badInput("Could not read " + name + ": " + why + "."); };
  Descriptor file(::open(name.c_str(), O_RDONLY | O_CLOEXEC));
  if (file.number() < 0) throw unreadable(errno == ENOENT ? "there is no such file" : std::strerror(errno));
  struct stat status {};
  if (::fstat(file.number(), &status) != 0) throw unreadable(std::strerror(errno));
  if (S_ISDIR(status.st_mode)) throw unreadable("it is a folder, not a file");
  Bytes bytes;
  constexpr std::size_t step = 1 << 20;
  for (;;) {
    const std::size_t before = bytes.size();
    if (before > limit) throw unreadable("it is larger than can be worked with");
    bytes.resize(before + step);
    const ssize_t count = ::read(file.number(), bytes.data() + before, step);
    if (count < 0 && errno != EINTR) throw unreadable(std::strerror(errno));
    bytes.resize(before + static_cast<std::size_t>(std::max<ssize_t>(count, 0)));
    if (count == 0) return bytes;
  }
}

}  // namespace hscaffold
