// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/pulse/pulse_connection.h"

#include <sys/time.h>

#include <algorithm>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr double patience = 5.0;  // seconds, for a server to answer

}  // namespace

PulseConnection::PulseConnection(std::function<void()> changed)
    : library_([]() -> const PulseLibrary& {
        if (const PulseLibrary* library = PulseLibrary::get()) return *library;
        throw Error("This machine has no PulseAudio.");
      }()),
      changed_(std::move(changed)) {
  loop_ = library_.pa_threaded_mainloop_new();
  if (!loop_) throw Error("PulseAudio's client library cannot be started.");
  context_ = library_.pa_context_new(library_.pa_threaded_mainloop_get_api(loop_), "Yewdrift");
  library_.pa_context_set_state_callback(
      context_,
      [](pa_context*, void* self) {
        auto* me = static_cast<PulseConnection*>(self);
        if (!me->connected() && me->changed_) me->changed_();
        me->wake();
      },
      this);
  Sentence problem;
  if (library_.pa_context_connect(context_, nullptr, PA_CONTEXT_NOAUTOSPAWN, nullptr) < 0 ||
      library_.pa_threaded_mainloop_start(loop_) < 0) {
    problem = Sentence("No PulseAudio server is running.");
  } else {
    const Lock guard(*this);
    const bool ready =
        waitUntil([&] { return library_.pa_context_get_state(context_) == PA_CONTEXT_READY; }, patience);
    if (!ready)
      problem = library_.pa_context_errno(context_) == PA_ERR_ACCESS
                    ? Sentence("The PulseAudio server refuses this user.")
                    : Sentence("No PulseAudio server is running, or it does not answer.");
    else if (changed_)
      subscribe();
  }
  if (problem.empty()) return;
  changed_ = {};
  close();
  throw Error(problem);
}

PulseConnection::~PulseConnection() {
  close();
}

void PulseConnection::subscribe() {
  library_.pa_context_set_subscribe_callback(
      context_,
      [](pa_context*, pa_subscription_event_type_t, std::uint32_t, void* self) {
        static_cast<PulseConnection*>(self)->changed_();
      },
      this);
  const auto mask = static_cast<pa_subscription_mask_t>(
      PA_SUBSCRIPTION_MASK_SINK | PA_SUBSCRIPTION_MASK_SOURCE | PA_SUBSCRIPTION_MASK_SERVER);
  if (pa_operation* operation = library_.pa_context_subscribe(context_, mask, nullptr, nullptr))
    library_.pa_operation_unref(operation);
}

void PulseConnection::close() {
  if (!loop_) return;
  {
    const Lock guard(*this);
    if (context_) {
      library_.pa_context_set_state_callback(context_, nullptr, nullptr);
      library_.pa_context_set_subscribe_callback(context_, nullptr, nullptr);
      library_.pa_context_disconnect(context_);
      library_.pa_context_unref(context_);
    }
    context_ = nullptr;
  }
  library_.pa_threaded_mainloop_stop(loop_);
  library_.pa_threaded_mainloop_free(loop_);
  loop_ = nullptr;
}

bool PulseConnection::connected() const {
  const pa_context_state_t state = library_.pa_context_get_state(context_);
  return state != PA_CONTEXT_FAILED && state != PA_CONTEXT_TERMINATED;
}

std::string PulseConnection::problem() const {
  const char* text = library_.pa_strerror(library_.pa_context_errno(context_));
  return text ? text : "no reason given";
}

bool PulseConnection::waitUntil(const std::function<bool()>& done, double seconds) {
  // The loop is woken by a timer too, so that a server that never answers is given up.
  pa_mainloop_api* api = library_.pa_threaded_mainloop_get_api(loop_);
  timeval until{};
  gettimeofday(&until, nullptr);
  until.tv_sec += static_cast<time_t>(seconds) + 1;
  bool expired = false;
  struct Wake {
    PulseConnection* connection;
    bool* expired;
  } wake{this, &expired};
  pa_time_event* timer = api->time_new(
      api, &until,
      [](pa_mainloop_api*, pa_time_event*, const timeval*, void* data) {
        *static_cast<Wake*>(data)->expired = true;
        static_cast<Wake*>(data)->connection->wake();
      },
      &wake);
  bool met = done();
  while (!met && connected() && !expired) {
    library_.pa_threaded_mainloop_wait(loop_);
    met = done();
  }
  api->time_free(timer);
  return met;
}

void PulseConnection::finish(pa_operation* operation) {
  if (!operation) throw Error("The PulseAudio server does not answer: %1.", problem());
  waitUntil([&] { return library_.pa_operation_get_state(operation) != PA_OPERATION_RUNNING; }, patience);
  library_.pa_operation_unref(operation);
}

DriverListing PulseConnection::listing() {
  struct Gathered {
    PulseConnection* connection;
    DriverListing listing;
    std::string defaultSource;
    std::string defaultSink;
  } gathered{this, {}, {}, {}};
  const Lock guard(*this);
  finish(library_.pa_context_get_server_info(
      context_,
      [](pa_context*, const pa_server_info* info, void* data) {
        auto& to = *static_cast<Gathered*>(data);
        if (info && info->default_source_name) to.defaultSource = info->default_source_name;
        if (info && info->default_sink_name) to.defaultSink = info->default_sink_name;
        to.connection->wake();
      },
      &gathered));
  finish(library_.pa_context_get_source_info_list(
      context_,
      [](pa_context*, const pa_source_info* info, int, void* data) {
        auto& to = *static_cast<Gathered*>(data);
        if (info)
          to.listing.sources.push_back({info->name, info->description ? info->description : info->name,
                                        info->sample_spec.channels, info->name == to.defaultSource,
                                        info->monitor_of_sink != PA_INVALID_INDEX});
        to.connection->wake();
      },
      &gathered));
  finish(library_.pa_context_get_sink_info_list(
      context_,
      [](pa_context*, const pa_sink_info* info, int, void* data) {
        auto& to = *static_cast<Gathered*>(data);
        if (info)
          to.listing.sinks.push_back({info->name, info->description ? info->description : info->name,
                                      info->sample_spec.channels, info->name == to.defaultSink, false});
        to.connection->wake();
      },
      &gathered));
  // Microphones first: what a sink plays is rarely what a take should be.
  std::ranges::stable_sort(gathered.listing.sources, {}, &EndPoint::monitor);
  return gathered.listing;
}

}  // namespace yewdrift
