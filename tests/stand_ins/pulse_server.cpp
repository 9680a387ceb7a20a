// SPDX-License-Identifier: GPL-3.0-or-later
#include "pulse_server.h"

#include <pulse/pulseaudio.h>

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <ctime>
#include <deque>
#include <list>
#include <mutex>
#include <thread>
#include <utility>

namespace yewdrift::test {
namespace {

using Clock = std::chrono::steady_clock;
constexpr std::chrono::milliseconds turn{1};
constexpr std::chrono::milliseconds notForLong{40};

std::recursive_mutex everything;  // the lock of every loop
std::unique_ptr<PulseServer> present = std::make_unique<PulseServer>();

struct Loop;
struct Timer {
  Loop* loop = nullptr;
  Clock::time_point made = Clock::now();
  std::time_t due = 0;
  pa_time_event_cb_t call = nullptr;
  void* with = nullptr;
};

struct Loop {
  pa_mainloop_api api{};
  std::condition_variable_any signal;
  std::deque<std::function<void()>> tasks;
  std::list<Timer> timers;
  std::thread thread;
  bool ending = false;
  void run();
};

struct Context {
  Loop* loop = nullptr;
  pa_context_state_t state = PA_CONTEXT_UNCONNECTED;
  int error = 0;
  pa_context_notify_cb_t changed = nullptr;
  void* with = nullptr;
  pa_context_subscribe_cb_t told = nullptr;
  void* toldWith = nullptr;
  unsigned mask = 0;

  void become(pa_context_state_t next, int problem) {
    state = next;
    error = problem;
    if (changed) changed(reinterpret_cast<pa_context*>(this), with);
  }
};
std::list<Context> contexts;

struct Operation {
  bool done = false;
};
using SharedOperation = std::shared_ptr<Operation>;

struct Chunk {
  std::vector<float> samples;
  bool hole = false;
};

struct OpenStream {
  PulseServer::Stream told;
  Context* context = nullptr;
  pa_stream_state_t state = PA_STREAM_UNCONNECTED;
  pa_buffer_attr buffers{};
  std::deque<Chunk> waiting;
  pa_stream_notify_cb_t changed = nullptr;
  void* changedWith = nullptr;
  pa_stream_request_cb_t readable = nullptr;
  void* readableWith = nullptr;
  pa_stream_request_cb_t writable = nullptr;
  void* writableWith = nullptr;
  pa_stream_notify_cb_t overflown = nullptr;
  void* overflownWith = nullptr;

  pa_stream* asked() { return reinterpret_cast<pa_stream*>(this); }
  void become(pa_stream_state_t next) {
    state = next;
    if (changed) changed(asked(), changedWith);
  }
  void arrive(Chunk chunk) {
    const std::size_t bytes = chunk.samples.size() * sizeof(float);
    waiting.push_back(std::move(chunk));
    if (readable) readable(asked(), bytes, readableWith);
  }
};
std::list<OpenStream> streams;

template <typename Ours, typename Theirs>
Ours& ours(Theirs* theirs) {
  return *reinterpret_cast<Ours*>(const_cast<std::remove_const_t<Theirs>*>(theirs));
}

/// A block from each source, and each sink asks for one.
void pump() {
  for (OpenStream& stream : streams) {
    if (stream.state != PA_STREAM_READY) continue;
    if (!stream.told.records) {
      if (stream.writable) stream.writable(stream.asked(), stream.buffers.minreq, stream.writableWith);
      continue;
    }
    Chunk chunk;
    const std::size_t frames =
        stream.buffers.fragsize / sizeof(float) / static_cast<std::size_t>(stream.told.channels);
    for (std::size_t i = 0; i < frames; ++i, ++present->delivered)
      for (int c = 0; c < stream.told.channels; ++c)
        chunk.samples.push_back(PulseServer::sample(present->delivered, c));
    stream.arrive(std::move(chunk));
  }
}

void Loop::run() {
  std::unique_lock lock(everything);
  for (int turns = 1; !ending; ++turns) {
    // An answer takes its time.
    while (turns % 4 == 0 && !tasks.empty()) {
      const auto task = std::move(tasks.front());
      tasks.pop_front();
      task();
    }
    for (Timer& timer : timers)
      if (timer.call &&
          ((present->impatient && Clock::now() - timer.made > notForLong) || std::time(nullptr) > timer.due))
        std::exchange(timer.call, nullptr)(&api, reinterpret_cast<pa_time_event*>(&timer), nullptr,
                                           timer.with);
    if (present->pumps && std::any_of(streams.begin(), streams.end(),
                                      [this](const OpenStream& each) { return each.context->loop == this; }))
      pump();
    signal.wait_for(lock, turn);
  }
}

/// Answers on the loop's thread, then the operation is done; null where questions are not answered.
pa_operation* answered(pa_context* context, const std::function<void()>& answer) {
  Context& asking = ours<Context>(context);
  if (!present->answersQuestions || asking.state != PA_CONTEXT_READY) {
    asking.error = PA_ERR_BADSTATE;
    return nullptr;
  }
  const auto operation = std::make_shared<Operation>();
  asking.loop->tasks.push_back([operation, answer, loop = asking.loop] {
    answer();
    operation->done = true;
    loop->signal.notify_all();
  });
  ++present->operationsHeld;
  return reinterpret_cast<pa_operation*>(new SharedOperation(operation));
}

pa_source_info sourceOf(const PulseServer::Point& point) {
  pa_source_info info{};
  info.name = point.name.c_str();
  info.description = point.description ? point.description->c_str() : nullptr;
  info.sample_spec.channels = static_cast<std::uint8_t>(point.channels);
  info.monitor_of_sink = point.monitor ? 3 : PA_INVALID_INDEX;
  info.mute = point.muted ? 1 : 0;
  return info;
}

OpenStream* openStream(bool records) {
  const auto found = std::find_if(streams.begin(), streams.end(),
                                  [=](const OpenStream& each) { return each.told.records == records; });
  return found == streams.end() ? nullptr : &*found;
}

int connect(pa_stream* stream, const char* point, const pa_buffer_attr* wanted, pa_stream_flags_t flags,
            bool records) {
  OpenStream& open = ours<OpenStream>(stream);
  open.told.records = records;
  open.told.point = point;
  open.told.flags = flags;
  open.told.wantedFragment = wanted->fragsize;
  open.told.wantedRequest = wanted->minreq;
  open.told.wantedTarget = wanted->tlength;
  open.buffers = *wanted;
  if (present->fragment > 0) open.buffers.fragsize = present->fragment;
  if (present->request > 0) open.buffers.minreq = present->request;
  if (present->target > 0) open.buffers.tlength = present->target;
  if (!present->streamsConnect) {
    open.context->error = PA_ERR_NOENTITY;
    return -1;
  }
  open.state = PA_STREAM_CREATING;
  open.context->loop->tasks.push_back([stream] {
    for (OpenStream& each : streams) {
      if (each.asked() != stream) continue;
      if (!present->streamsOpen) each.context->error = PA_ERR_NOENTITY;
      each.become(present->streamsOpen ? PA_STREAM_READY : PA_STREAM_FAILED);
    }
  });
  return 0;
}

}  // namespace

PulseServer& pulseServer() {
  return *present;
}

PulseServer& freshPulseServer() {
  const std::lock_guard guard(everything);
  present = std::make_unique<PulseServer>();
  return *present;
}

void PulseServer::within(const std::function<void()>& what) {
  const std::lock_guard guard(everything);
  what();
}

const PulseServer::Stream* PulseServer::stream(bool records) const {
  const OpenStream* const open = openStream(records);
  return open ? &open->told : nullptr;
}

void PulseServer::deliver(const std::vector<float>& interleaved, std::size_t hole) {
  const std::lock_guard guard(everything);
  Chunk chunk{interleaved, hole > 0};
  if (hole > 0) chunk.samples.resize(hole / sizeof(float));
  openStream(true)->arrive(std::move(chunk));
}

void PulseServer::ask(std::size_t bytes) {
  const std::lock_guard guard(everything);
  OpenStream& open = *openStream(false);
  open.writable(open.asked(), bytes, open.writableWith);
}

void PulseServer::overflow() {
  const std::lock_guard guard(everything);
  OpenStream& open = *openStream(true);
  open.overflown(open.asked(), open.overflownWith);
}

void PulseServer::failStream(bool records) {
  const std::lock_guard guard(everything);
  openStream(records)->become(PA_STREAM_FAILED);
}

void PulseServer::tellStream(bool records) {
  const std::lock_guard guard(everything);
  openStream(records)->become(PA_STREAM_READY);
}

void PulseServer::change() {
  const std::lock_guard guard(everything);
  for (Context& context : contexts)
    if (context.told && (context.mask & PA_SUBSCRIPTION_MASK_SOURCE) != 0 &&
        (context.mask & PA_SUBSCRIPTION_MASK_SINK) != 0 && (context.mask & PA_SUBSCRIPTION_MASK_SERVER) != 0)
      context.told(reinterpret_cast<pa_context*>(&context), PA_SUBSCRIPTION_EVENT_CHANGE, 0,
                   context.toldWith);
}

void PulseServer::end() {
  const std::lock_guard guard(everything);
  for (Context& context : contexts) context.become(PA_CONTEXT_FAILED, PA_ERR_CONNECTIONTERMINATED);
}

}  // namespace yewdrift::test

using namespace yewdrift::test;

extern "C" {

pa_threaded_mainloop* pa_threaded_mainloop_new() {
  auto* const loop = new Loop;
  loop->api.userdata = loop;
  loop->api.time_new = [](pa_mainloop_api* api, const timeval* at, pa_time_event_cb_t call, void* with) {
    auto* const on = static_cast<Loop*>(api->userdata);
    on->timers.push_back({on, Clock::now(), at->tv_sec, call, with});
    return reinterpret_cast<pa_time_event*>(&on->timers.back());
  };
  loop->api.time_free = [](pa_time_event* event) {
    Timer& timer = ours<Timer>(event);
    timer.loop->timers.remove_if([&](const Timer& each) { return &each == &timer; });
  };
  return reinterpret_cast<pa_threaded_mainloop*>(loop);
}

void pa_threaded_mainloop_free(pa_threaded_mainloop* loop) {
  delete &ours<Loop>(loop);
}

int pa_threaded_mainloop_start(pa_threaded_mainloop* loop) {
  if (!pulseServer().loopsStart) return -1;
  ours<Loop>(loop).thread = std::thread([loop] { ours<Loop>(loop).run(); });
  return 0;
}

void pa_threaded_mainloop_stop(pa_threaded_mainloop* loop) {
  {
    const std::lock_guard guard(everything);
    ours<Loop>(loop).ending = true;
  }
  if (ours<Loop>(loop).thread.joinable()) ours<Loop>(loop).thread.join();
}

void pa_threaded_mainloop_lock(pa_threaded_mainloop*) {
  everything.lock();
}

void pa_threaded_mainloop_unlock(pa_threaded_mainloop*) {
  everything.unlock();
}

void pa_threaded_mainloop_wait(pa_threaded_mainloop* loop) {
  ours<Loop>(loop).signal.wait(everything);
}

void pa_threaded_mainloop_signal(pa_threaded_mainloop* loop, int) {
  ours<Loop>(loop).signal.notify_all();
}

pa_mainloop_api* pa_threaded_mainloop_get_api(pa_threaded_mainloop* loop) {
  return &ours<Loop>(loop).api;
}

pa_context* pa_context_new(pa_mainloop_api* api, const char*) {
  const std::lock_guard guard(everything);
  contexts.emplace_back().loop = static_cast<Loop*>(api->userdata);
  ++pulseServer().clients;
  return reinterpret_cast<pa_context*>(&contexts.back());
}

void pa_context_unref(pa_context* context) {
  contexts.remove_if([&](const Context& each) { return &each == &ours<Context>(context); });
  --pulseServer().clients;
}

int pa_context_connect(pa_context* context, const char*, pa_context_flags_t flags, const pa_spawn_api*) {
  const PulseServer::Answers answers = pulseServer().answers;
  if (answers == PulseServer::Answers::NotThere || (flags & PA_CONTEXT_NOAUTOSPAWN) == 0) return -1;
  Context& made = ours<Context>(context);
  made.state = PA_CONTEXT_CONNECTING;
  if (answers == PulseServer::Answers::Yes)
    made.loop->tasks.push_back([&made] { made.become(PA_CONTEXT_READY, 0); });
  if (answers == PulseServer::Answers::Refuses)
    made.loop->tasks.push_back([&made] { made.become(PA_CONTEXT_FAILED, PA_ERR_ACCESS); });
  if (answers == PulseServer::Answers::Fails)
    made.loop->tasks.push_back([&made] { made.become(PA_CONTEXT_FAILED, PA_ERR_CONNECTIONREFUSED); });
  return 0;
}

void pa_context_disconnect(pa_context* context) {
  ours<Context>(context).loop->tasks.clear();  // what was asked is not answered any more
  ours<Context>(context).become(PA_CONTEXT_TERMINATED, 0);
}

pa_context_state_t pa_context_get_state(const pa_context* context) {
  return ours<Context>(context).state;
}

void pa_context_set_state_callback(pa_context* context, pa_context_notify_cb_t call, void* with) {
  ours<Context>(context).changed = call;
  ours<Context>(context).with = with;
}

int pa_context_errno(const pa_context* context) {
  return ours<Context>(context).error;
}

pa_operation* pa_context_get_server_info(pa_context* context, pa_server_info_cb_t call, void* with) {
  return answered(context, [=] {
    pa_server_info info{};
    info.default_source_name =
        pulseServer().defaultSource.empty() ? nullptr : pulseServer().defaultSource.c_str();
    info.default_sink_name = pulseServer().defaultSink.empty() ? nullptr : pulseServer().defaultSink.c_str();
    call(context, &info, with);
  });
}

pa_operation* pa_context_get_source_info_list(pa_context* context, pa_source_info_cb_t call, void* with) {
  return answered(context, [=] {
    for (const PulseServer::Point& each : pulseServer().sources) {
      const pa_source_info info = sourceOf(each);
      call(context, &info, 0, with);
    }
    call(context, nullptr, 1, with);
  });
}

pa_operation* pa_context_get_sink_info_list(pa_context* context, pa_sink_info_cb_t call, void* with) {
  return answered(context, [=] {
    for (const PulseServer::Point& each : pulseServer().sinks) {
      pa_sink_info info{};
      info.name = each.name.c_str();
      info.description = each.description ? each.description->c_str() : nullptr;
      info.sample_spec.channels = static_cast<std::uint8_t>(each.channels);
      call(context, &info, 0, with);
    }
    call(context, nullptr, 1, with);
  });
}

pa_operation* pa_context_get_source_info_by_name(pa_context* context, const char* name,
                                                 pa_source_info_cb_t call, void* with) {
  return answered(context, [=, wanted = std::string(name)] {
    for (const PulseServer::Point& each : pulseServer().sources) {
      const pa_source_info info = sourceOf(each);
      if (each.name == wanted) call(context, &info, 0, with);
    }
    call(context, nullptr, 1, with);
  });
}

pa_operation* pa_context_subscribe(pa_context* context, pa_subscription_mask_t mask, pa_context_success_cb_t,
                                   void*) {
  ours<Context>(context).mask = mask;
  return answered(context, [] {});
}

void pa_context_set_subscribe_callback(pa_context* context, pa_context_subscribe_cb_t call, void* with) {
  ours<Context>(context).told = call;
  ours<Context>(context).toldWith = with;
}

void pa_operation_unref(pa_operation* operation) {
  delete &ours<SharedOperation>(operation);
  --pulseServer().operationsHeld;
}

pa_operation_state_t pa_operation_get_state(const pa_operation* operation) {
  return ours<SharedOperation>(operation)->done ? PA_OPERATION_DONE : PA_OPERATION_RUNNING;
}

const char* pa_strerror(int error) {
  return error == PA_ERR_NOENTITY ? "No such entity" : error == PA_ERR_BADSTATE ? "Bad state" : nullptr;
}

pa_stream* pa_stream_new(pa_context* context, const char* name, const pa_sample_spec* spec,
                         const pa_channel_map* map) {
  if (!pulseServer().streamsAreMade) {
    ours<Context>(context).error = 0;
    return nullptr;
  }
  OpenStream& made = streams.emplace_back();
  made.context = &ours<Context>(context);
  made.told.name = name;
  made.told.format = spec->format;
  made.told.rate = static_cast<int>(spec->rate);
  made.told.channels = spec->channels;
  made.told.map.assign(map->map, map->map + map->channels);
  ++pulseServer().streamsHeld;
  return made.asked();
}

void pa_stream_unref(pa_stream* stream) {
  streams.remove_if([&](const OpenStream& each) { return &each == &ours<OpenStream>(stream); });
  --pulseServer().streamsHeld;
}

int pa_stream_disconnect(pa_stream* stream) {
  ours<OpenStream>(stream).become(PA_STREAM_TERMINATED);
  return 0;
}

int pa_stream_connect_record(pa_stream* stream, const char* point, const pa_buffer_attr* wanted,
                             pa_stream_flags_t flags) {
  return connect(stream, point, wanted, flags, true);
}

int pa_stream_connect_playback(pa_stream* stream, const char* point, const pa_buffer_attr* wanted,
                               pa_stream_flags_t flags, const pa_cvolume*, pa_stream*) {
  return connect(stream, point, wanted, flags, false);
}

pa_stream_state_t pa_stream_get_state(const pa_stream* stream) {
  return ours<OpenStream>(stream).state;
}

void pa_stream_set_state_callback(pa_stream* stream, pa_stream_notify_cb_t call, void* with) {
  ours<OpenStream>(stream).changed = call;
  ours<OpenStream>(stream).changedWith = with;
}

void pa_stream_set_read_callback(pa_stream* stream, pa_stream_request_cb_t call, void* with) {
  ours<OpenStream>(stream).readable = call;
  ours<OpenStream>(stream).readableWith = with;
}

void pa_stream_set_write_callback(pa_stream* stream, pa_stream_request_cb_t call, void* with) {
  ours<OpenStream>(stream).writable = call;
  ours<OpenStream>(stream).writableWith = with;
}

void pa_stream_set_overflow_callback(pa_stream* stream, pa_stream_notify_cb_t call, void* with) {
  ours<OpenStream>(stream).overflown = call;
  ours<OpenStream>(stream).overflownWith = with;
}

int pa_stream_peek(pa_stream* stream, const void** data, std::size_t* bytes) {
  OpenStream& open = ours<OpenStream>(stream);
  *data = nullptr;
  *bytes = 0;
  if (open.waiting.empty()) return 0;
  const Chunk& chunk = open.waiting.front();
  if (!chunk.hole) *data = chunk.samples.data();
  *bytes = chunk.samples.size() * sizeof(float);
  return 0;
}

int pa_stream_drop(pa_stream* stream) {
  ours<OpenStream>(stream).waiting.pop_front();
  return 0;
}

std::size_t pa_stream_readable_size(const pa_stream* stream) {
  std::size_t bytes = 0;
  for (const Chunk& each : ours<OpenStream>(stream).waiting) bytes += each.samples.size() * sizeof(float);
  return bytes;
}

int pa_stream_write(pa_stream* stream, const void* data, std::size_t bytes, pa_free_cb_t, std::int64_t,
                    pa_seek_mode_t) {
  if (!pulseServer().takesSamples) return -1;
  const auto* const samples = static_cast<const float*>(data);
  std::vector<float>& written = ours<OpenStream>(stream).told.written;
  written.insert(written.end(), samples, samples + bytes / sizeof(float));
  return 0;
}

const pa_buffer_attr* pa_stream_get_buffer_attr(pa_stream* stream) {
  return &ours<OpenStream>(stream).buffers;
}
}
