/* A disk under control, put before the C library: what is written below HP_DISK_ROOT is told to a log,
 * in order, with what was synced when, so that a test can cut the power anywhere; and while the file
 * HP_DISK_FULL is there, nothing can grow.
 *
 * A record of the log: one letter, then path length, offset, data length (u64 each), path, data.
 *   W written   S synced   T cut to the offset   U unlinked   R renamed to the data
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <pthread.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/uio.h>
#include <unistd.h>

static pthread_mutex_t held = PTHREAD_MUTEX_INITIALIZER;
static int log_fd = -2;

/* The C library's own. */
#define REAL(name) \
  static __typeof__(&name) real; \
  if (!real) real = (__typeof__(&name))dlsym(RTLD_NEXT, #name)

static int path_of(int fd, char *out, size_t size) {
  char link[64];
  snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
  ssize_t n = readlink(link, out, size - 1);
  if (n < 0) return 0;
  out[n] = 0;
  const char *root = getenv("HP_DISK_ROOT");
  return root && strncmp(out, root, strlen(root)) == 0;
}

static int below(const char *path) {
  const char *root = getenv("HP_DISK_ROOT");
  return root && path && strncmp(path, root, strlen(root)) == 0;
}

static void tell(char what, const char *path, uint64_t at, const void *data, uint64_t n) {
  REAL(writev);
  if (log_fd == -2) {
    const char *name = getenv("HP_DISK_LOG");
    int (*opens)(const char *, int, ...) = dlsym(RTLD_NEXT, "open");
    log_fd = name ? opens(name, O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0600) : -1;
  }
  if (log_fd < 0) return;
  uint64_t head[3] = {strlen(path), at, n};
  struct iovec parts[4] = {
      {&what, 1}, {head, sizeof head}, {(void *)path, head[0]}, {(void *)data, n}};
  if (real(log_fd, parts, n ? 4 : 3) < 0) abort();
}

static int full(int fd, off_t end) {
  const char *sign = getenv("HP_DISK_FULL");
  struct stat found;
  if (!sign || access(sign, F_OK)) return 0;
  return fstat(fd, &found) == 0 && S_ISREG(found.st_mode) && end > found.st_size;
}

ssize_t pwrite64(int fd, const void *data, size_t n, off64_t at) {
  REAL(pwrite64);
  char path[4096];
  if (!path_of(fd, path, sizeof path)) return real(fd, data, n, at);
  if (full(fd, at + (off_t)n)) return errno = ENOSPC, -1;
  pthread_mutex_lock(&held);
  ssize_t done = real(fd, data, n, at);
  if (done > 0) tell('W', path, at, data, done);
  pthread_mutex_unlock(&held);
  return done;
}

ssize_t pwrite(int fd, const void *data, size_t n, off_t at) { return pwrite64(fd, data, n, at); }

ssize_t write(int fd, const void *data, size_t n) {
  REAL(write);
  char path[4096];
  off_t at = lseek(fd, 0, SEEK_CUR);
  if (at < 0 || !path_of(fd, path, sizeof path)) return real(fd, data, n);
  if (full(fd, at + (off_t)n)) return errno = ENOSPC, -1;
  pthread_mutex_lock(&held);
  ssize_t done = real(fd, data, n);
  if (done > 0) tell('W', path, at, data, done);
  pthread_mutex_unlock(&held);
  return done;
}

static int synced(int fd, const char *name) {
  int (*real)(int) = dlsym(RTLD_NEXT, name);
  char path[4096];
  int done = real(fd);
  if (done == 0 && path_of(fd, path, sizeof path)) {
    pthread_mutex_lock(&held);
    tell('S', path, 0, NULL, 0);
    pthread_mutex_unlock(&held);
  }
  return done;
}

int fsync(int fd) { return synced(fd, "fsync"); }
int fdatasync(int fd) { return synced(fd, "fdatasync"); }

int ftruncate64(int fd, off64_t size) {
  REAL(ftruncate64);
  char path[4096];
  if (!path_of(fd, path, sizeof path)) return real(fd, size);
  if (full(fd, size)) return errno = ENOSPC, -1;
  pthread_mutex_lock(&held);
  int done = real(fd, size);
  if (done == 0) tell('T', path, size, NULL, 0);
  pthread_mutex_unlock(&held);
  return done;
}

int ftruncate(int fd, off_t size) { return ftruncate64(fd, size); }

int unlink(const char *path) {
  REAL(unlink);
  pthread_mutex_lock(&held);
  int done = real(path);
  if (done == 0 && below(path)) tell('U', path, 0, NULL, 0);
  pthread_mutex_unlock(&held);
  return done;
}

int rename(const char *from, const char *to) {
  REAL(rename);
  pthread_mutex_lock(&held);
  int done = real(from, to);
  if (done == 0 && below(from)) tell('R', from, 0, to, strlen(to));
  pthread_mutex_unlock(&held);
  return done;
}
