// SPDX-License-Identifier: GPL-3.0-or-later
//
// While a thread pretends to be the audio thread, whatever that thread must not do is counted: the whole
// malloc family, locks, files, sleeping, system calls.
#pragma once

#include <string>

// Sanitizers bring their own allocator and locks; there only the plain build traps.
#if defined(__linux__) && defined(__x86_64__) && !defined(YEWDRIFT_SANITIZED)
#define YEWDRIFT_TRAPS 1

namespace yewdrift::test {

struct TrapCounts {
  int allocations = 0;  // and releases
  int locks = 0;        // of mutexes, read-write locks, spin locks, semaphores; waiting for a condition
  int files = 0;        // of the C library, also what only reaches its buffer
  int systemCalls = 0;  // whoever makes them: files, sleeping, waking others
  int firstSystemCall = -1;
  friend bool operator==(const TrapCounts&, const TrapCounts&) = default;
};
std::string toText(const TrapCounts& counts);
/// What was counted since it was last asked for.
TrapCounts takeTrapCounts();

class OnAudioThread {
 public:
  OnAudioThread();
  ~OnAudioThread();
  OnAudioThread(const OnAudioThread&) = delete;
  OnAudioThread& operator=(const OnAudioThread&) = delete;
};

}  // namespace yewdrift::test
#endif
