// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/shared_library.h"

#include <dlfcn.h>

namespace yewdrift {

// Never unloaded: the sound servers' libraries leave threads and handlers behind.
SharedLibrary::SharedLibrary(const char* soname)
    : handle_(dlopen(soname, RTLD_NOW | RTLD_LOCAL | RTLD_NODELETE), [](void* handle) {
        if (handle) dlclose(handle);
      }) {}

void* SharedLibrary::find(const char* symbol) const {
  return handle_ ? dlsym(handle_.get(), symbol) : nullptr;
}

}  // namespace yewdrift
