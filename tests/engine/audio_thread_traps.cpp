// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/audio_thread_traps.h"

#if defined(__linux__) && defined(__x86_64__) && !defined(YEWDRIFT_SANITIZED)

#include <dlfcn.h>
#include <pthread.h>
#include <semaphore.h>
#include <signal.h>
#include <sys/prctl.h>
#include <ucontext.h>
#include <unistd.h>

#include <atomic>
#include <cstdio>
#include <cstdlib>
#include <mutex>
#include <stdexcept>

namespace {

thread_local bool armed = false;
// Read by the kernel at every system call of the thread (prctl(2), PR_SET_SYSCALL_USER_DISPATCH).
thread_local volatile char callsBlocked = SYSCALL_DISPATCH_FILTER_ALLOW;
std::atomic<int> allocations{0};
std::atomic<int> locks{0};
std::atomic<int> files{0};
std::atomic<int> systemCalls{0};
std::atomic<int> firstSystemCall{-1};

void count(std::atomic<int>& what) {
  if (armed) ++what;
}

/// The function that one of those below stands in front of.
template <typename Function>
Function behind(const char* name) {
  const bool was = armed;
  armed = false;
  auto* const found = reinterpret_cast<Function>(dlsym(RTLD_NEXT, name));
  armed = was;
  return found;
}

/// Counts, lets the call through, and looks away until the thread is armed again.
void refused(int, siginfo_t* info, void* context) {
  callsBlocked = SYSCALL_DISPATCH_FILTER_ALLOW;
  if (systemCalls++ == 0) firstSystemCall = info->si_syscall;
  auto& registers = static_cast<ucontext_t*>(context)->uc_mcontext.gregs;
  constexpr int lengthOfInstruction = 2;
  registers[REG_RAX] = info->si_syscall;
  registers[REG_RIP] -= lengthOfInstruction;
}

void watchSystemCalls() {
  static std::once_flag once;
  std::call_once(once, [] {
    struct sigaction action {};
    action.sa_sigaction = refused;
    action.sa_flags = SA_SIGINFO;
    sigaction(SIGSYS, &action, nullptr);
  });
  static thread_local const int watched =
      prctl(PR_SET_SYSCALL_USER_DISPATCH, PR_SYS_DISPATCH_ON, 0L, 0L, &callsBlocked);
  if (watched != 0) throw std::runtime_error("This kernel cannot tell of system calls (Linux 5.11 can).");
}

}  // namespace

// The malloc family; operator new stands on it. The C library's own are behind the second names.
extern "C" {
void* __libc_malloc(std::size_t size);
void* __libc_calloc(std::size_t count, std::size_t size);
void* __libc_realloc(void* memory, std::size_t size);
void* __libc_memalign(std::size_t alignment, std::size_t size);
void __libc_free(void* memory);

void* malloc(std::size_t size) {
  count(allocations);
  return __libc_malloc(size);
}
void* calloc(std::size_t number, std::size_t size) {
  count(allocations);
  return __libc_calloc(number, size);
}
void* realloc(void* memory, std::size_t size) {
  count(allocations);
  return __libc_realloc(memory, size);
}
void* memalign(std::size_t alignment, std::size_t size) {
  count(allocations);
  return __libc_memalign(alignment, size);
}
void* aligned_alloc(std::size_t alignment, std::size_t size) {
  count(allocations);
  return __libc_memalign(alignment, size);
}
int posix_memalign(void** memory, std::size_t alignment, std::size_t size) {
  count(allocations);
  *memory = __libc_memalign(alignment, size);
  return *memory ? 0 : ENOMEM;
}
void free(void* memory) {
  count(allocations);
  __libc_free(memory);
}

#define YEWDRIFT_TRAP(counter, result, name, parameters, arguments) \
  result name parameters {                                          \
    static const auto real = behind<result(*) parameters>(#name);   \
    count(counter);                                                 \
    return real arguments;                                          \
  }
YEWDRIFT_TRAP(locks, int, pthread_mutex_lock, (pthread_mutex_t * lock), (lock))
YEWDRIFT_TRAP(locks, int, pthread_mutex_trylock, (pthread_mutex_t * lock), (lock))
YEWDRIFT_TRAP(locks, int, pthread_rwlock_rdlock, (pthread_rwlock_t * lock), (lock))
YEWDRIFT_TRAP(locks, int, pthread_rwlock_wrlock, (pthread_rwlock_t * lock), (lock))
YEWDRIFT_TRAP(locks, int, pthread_spin_lock, (pthread_spinlock_t * lock), (lock))
YEWDRIFT_TRAP(locks, int, pthread_cond_wait, (pthread_cond_t * on, pthread_mutex_t* lock), (on, lock))
YEWDRIFT_TRAP(locks, int, pthread_cond_signal, (pthread_cond_t * on), (on))
YEWDRIFT_TRAP(locks, int, pthread_cond_broadcast, (pthread_cond_t * on), (on))
YEWDRIFT_TRAP(locks, int, sem_wait, (sem_t * semaphore), (semaphore))
YEWDRIFT_TRAP(locks, int, sem_post, (sem_t * semaphore), (semaphore))
YEWDRIFT_TRAP(files, FILE*, fopen, (const char* path, const char* mode), (path, mode))
YEWDRIFT_TRAP(files, std::size_t, fwrite,
              (const void* from, std::size_t size, std::size_t number, FILE* file),
              (from, size, number, file))
YEWDRIFT_TRAP(files, std::size_t, fread, (void* to, std::size_t size, std::size_t number, FILE* file),
              (to, size, number, file))
#undef YEWDRIFT_TRAP
}

namespace yewdrift::test {

bool trapsWork() {
  return true;
}

std::string toText(const TrapCounts& counts) {
  return std::to_string(counts.allocations) + " allocations, " + std::to_string(counts.locks) + " locks, " +
         std::to_string(counts.files) + " files, " + std::to_string(counts.systemCalls) +
         " system calls, the first number " + std::to_string(counts.firstSystemCall);
}

TrapCounts takeTrapCounts() {
  return {allocations.exchange(0), locks.exchange(0), files.exchange(0), systemCalls.exchange(0),
          firstSystemCall.exchange(-1)};
}

OnAudioThread::OnAudioThread() {
  watchSystemCalls();
  armed = true;
  callsBlocked = SYSCALL_DISPATCH_FILTER_BLOCK;
}

OnAudioThread::~OnAudioThread() {
  callsBlocked = SYSCALL_DISPATCH_FILTER_ALLOW;
  armed = false;
}

}  // namespace yewdrift::test

#else

namespace yewdrift::test {

bool trapsWork() {
  return false;
}
std::string toText(const TrapCounts& /*counts*/) {
  return "nothing is counted";
}
TrapCounts takeTrapCounts() {
  return {};
}
OnAudioThread::OnAudioThread() = default;
OnAudioThread::~OnAudioThread() = default;

}  // namespace yewdrift::test

#endif
