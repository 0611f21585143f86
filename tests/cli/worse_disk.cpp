// A library for LD_PRELOAD that makes a program live on a worse disk or by a wrong clock. HSCAFFOLD_WORSE says which:
// "nolocks" (locks of files are not kept), "fat" (no links, no files without a name, no permissions, few characters in
// names), "clock:SECONDS" (added to the time of day).
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdarg>
#include <cstdlib>
#include <cstring>
#include <ctime>

namespace {

/// What follows the word in the variable; null if it begins otherwise.
const char* worse(const char* word) {
  const char* said = std::getenv("HSCAFFOLD_WORSE");
  return said != nullptr && std::strncmp(said, word, std::strlen(word)) == 0 ? said + std::strlen(word) : nullptr;
}

template <typename Function>
Function* real(const char* name) {
  return reinterpret_cast<Function*>(dlsym(RTLD_NEXT, name));
}

int fails(int error) {
  errno = error;
  return -1;
}

bool locks(int command) {
  return command == F_SETLK || command == F_SETLKW || command == F_GETLK || command == F_OFD_SETLK ||
         command == F_OFD_SETLKW || command == F_OFD_GETLK;
}

/// The error with which a file cannot be opened so; 0 if it can.
int refused(const char* path, int flags) {
  if (worse("fat") == nullptr) return 0;
  if ((flags & O_TMPFILE) == O_TMPFILE) return EOPNOTSUPP;
  const char* name = std::strrchr(path, '/');
  return (flags & O_CREAT) != 0 && std::strpbrk(name != nullptr ? name + 1 : path, "<>:\"|?*\\") != nullptr ? EINVAL
                                                                                                            : 0;
}

}  // namespace

extern "C" {

int fcntl(int file, int command, ...) {
  va_list list;
  va_start(list, command);
  void* argument = va_arg(list, void*);
  va_end(list);
  if (locks(command) && worse("nolocks") != nullptr) return fails(ENOLCK);
  return real<int(int, int, ...)>("fcntl")(file, command, argument);
}
int flock(int file, int operation) noexcept {
  return worse("nolocks") != nullptr ? fails(ENOLCK) : real<int(int, int)>("flock")(file, operation);
}

int open(const char* path, int flags, ...) {
  va_list list;
  va_start(list, flags);
  const mode_t mode = va_arg(list, mode_t);
  va_end(list);
  const int error = refused(path, flags);
  return error != 0 ? fails(error) : real<int(const char*, int, ...)>("open")(path, flags, mode);
}

// The same, where files are as large as they like anyway.
static_assert(sizeof(off_t) == 8);
int fcntl64(int file, int command, ...) __attribute__((alias("fcntl")));
int open64(const char* path, int flags, ...) __attribute__((alias("open")));

int link(const char* from, const char* to) noexcept {
  return worse("fat") != nullptr ? fails(EPERM) : real<int(const char*, const char*)>("link")(from, to);
}
int linkat(int fromFolder, const char* from, int toFolder, const char* to, int flags) noexcept {
  return worse("fat") != nullptr
             ? fails(EPERM)
             : real<int(int, const char*, int, const char*, int)>("linkat")(fromFolder, from, toFolder, to, flags);
}
int symlink(const char* from, const char* to) noexcept {
  return worse("fat") != nullptr ? fails(EPERM) : real<int(const char*, const char*)>("symlink")(from, to);
}
int fchmod(int file, mode_t mode) noexcept {
  return worse("fat") != nullptr ? fails(EPERM) : real<int(int, mode_t)>("fchmod")(file, mode);
}

int clock_gettime(clockid_t clock, timespec* at) noexcept {
  const int result = real<int(clockid_t, timespec*)>("clock_gettime")(clock, at);
  const char* shift = worse("clock:");
  if (result == 0 && shift != nullptr && clock == CLOCK_REALTIME) at->tv_sec += std::atol(shift);
  return result;
}
time_t time(time_t* out) noexcept {
  timespec now{};
  clock_gettime(CLOCK_REALTIME, &now);
  if (out != nullptr) *out = now.tv_sec;
  return now.tv_sec;
}

}  // extern "C"
