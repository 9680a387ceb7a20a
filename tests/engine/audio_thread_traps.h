// SPDX-License-Identifier: GPL-3.0-or-later
//
// While a thread pretends to be the audio thread, whatever that thread must not do is counted: the whole
// malloc family, locks, files, sleeping, system calls.
#pragma once

#include <string>

namespace yewdrift::test {

/// Not where the code is sanitized: sanitizers bring their own allocator and locks, and nothing is counted.
bool trapsWork();

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
