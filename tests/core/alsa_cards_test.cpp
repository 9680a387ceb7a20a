// SPDX-License-Identifier: GPL-3.0-or-later
//
// Cards where there are none: what ALSA's library says of cards is said by stand-ins here, which this program
// has in place of the library's own (see ALSA's documentation of the control interface: the functions do what
// is asked of them there, and no more). PCMs are ALSA's own plug-ins; they can be made to fail.
#include <alsa/asoundlib.h>
#include <dlfcn.h>
#include <sys/inotify.h>
#include <sys/syscall.h>
#include <unistd.h>

#include "core/core_tests.h"

namespace {

struct Card {
  std::string id;
  std::string name;
  /// By number: its name, and whether it records and plays.
  struct Pcm {
    std::string name;
    bool captures;
    bool plays;
  };
  std::map<int, Pcm> pcms;
  bool opens = true;
  bool tells = true;
};

/// What stands in, where it does: null, the library itself is asked.
struct StandIn {
  StandIn() { present = this; }
  ~StandIn() { present = nullptr; }
  StandIn(const StandIn&) = delete;
  StandIn& operator=(const StandIn&) = delete;

  static inline StandIn* present = nullptr;
  std::map<int, Card> cards;
  bool links = false;  // PCMs to each other
  fs::path watched;    // instead of /dev/snd
  // What a PCM is asked for next fails so often, with that.
  std::atomic<int> failReads{0};
  std::atomic<bool> everySecond{false};
  int reads = 0;
  std::atomic<int> failPrepares{0};
  std::atomic<int> failWith{0};
  std::atomic<int> dropped{0};
};

template <typename Function>
Function* itself(const char* name) {
  return reinterpret_cast<Function*>(dlsym(RTLD_NEXT, name));
}
#define YEWDRIFT_ITSELF(name) itself<decltype(name)>(#name)

}  // namespace

extern "C" {

int snd_card_next(int* card) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_card_next)(card);
  const auto next = StandIn::present->cards.upper_bound(*card);
  *card = next == StandIn::present->cards.end() ? -1 : next->first;
  return 0;
}

int snd_ctl_open(snd_ctl_t** control, const char* name, int mode) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_ctl_open)(control, name, mode);
  for (auto& [number, card] : StandIn::present->cards)
    if ("hw:" + std::to_string(number) == name && card.opens) {
      *control = reinterpret_cast<snd_ctl_t*>(&card);
      return 0;
    }
  return -ENODEV;
}

int snd_ctl_close(snd_ctl_t* control) {
  return StandIn::present ? 0 : YEWDRIFT_ITSELF(snd_ctl_close)(control);
}

int snd_ctl_card_info(snd_ctl_t* control, snd_ctl_card_info_t* info) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_ctl_card_info)(control, info);
  if (!reinterpret_cast<Card*>(control)->tells) return -EIO;
  std::memcpy(static_cast<void*>(info), static_cast<void*>(&control), sizeof(control));
  return 0;
}

static const Card& cardOf(const snd_ctl_card_info_t* info) {
  const Card* card = nullptr;
  std::memcpy(&card, static_cast<const void*>(info), sizeof(card));
  return *card;
}

const char* snd_ctl_card_info_get_id(const snd_ctl_card_info_t* info) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_ctl_card_info_get_id)(info);
  return cardOf(info).id.c_str();
}

const char* snd_ctl_card_info_get_name(const snd_ctl_card_info_t* info) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_ctl_card_info_get_name)(info);
  return cardOf(info).name.c_str();
}

int snd_ctl_pcm_next_device(snd_ctl_t* control, int* device) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_ctl_pcm_next_device)(control, device);
  const auto& pcms = reinterpret_cast<Card*>(control)->pcms;
  const auto next = pcms.upper_bound(*device);
  *device = next == pcms.end() ? -1 : next->first;
  return 0;
}

int snd_ctl_pcm_info(snd_ctl_t* control, snd_pcm_info_t* info) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_ctl_pcm_info)(control, info);
  const auto& pcms = reinterpret_cast<Card*>(control)->pcms;
  const auto pcm = pcms.find(static_cast<int>(snd_pcm_info_get_device(info)));
  if (pcm == pcms.end() || snd_pcm_info_get_subdevice(info) != 0) return -ENOENT;
  const bool capture = snd_pcm_info_get_stream(info) == SND_PCM_STREAM_CAPTURE;
  return (capture ? pcm->second.captures : pcm->second.plays) ? 0 : -ENOENT;
}

const char* snd_pcm_info_get_name(const snd_pcm_info_t* info) {
  if (!StandIn::present) return YEWDRIFT_ITSELF(snd_pcm_info_get_name)(info);
  for (const auto& [number, card] : StandIn::present->cards)
    if (const auto pcm = card.pcms.find(static_cast<int>(snd_pcm_info_get_device(info)));
        pcm != card.pcms.end())
      return pcm->second.name.c_str();
  return "";
}

snd_pcm_sframes_t snd_pcm_readi(snd_pcm_t* pcm, void* buffer, snd_pcm_uframes_t size) {
  StandIn* const standIn = StandIn::present;
  if (standIn && standIn->failReads > 0 && (!standIn->everySecond || ++standIn->reads % 2 == 0)) {
    --standIn->failReads;
    return standIn->failWith;
  }
  return YEWDRIFT_ITSELF(snd_pcm_readi)(pcm, buffer, size);
}

int snd_pcm_prepare(snd_pcm_t* pcm) {
  StandIn* const standIn = StandIn::present;
  if (standIn && standIn->failPrepares > 0) {
    --standIn->failPrepares;
    return -EBADFD;
  }
  return YEWDRIFT_ITSELF(snd_pcm_prepare)(pcm);
}

int snd_pcm_link(snd_pcm_t* one, snd_pcm_t* other) {
  return StandIn::present && StandIn::present->links ? 0 : YEWDRIFT_ITSELF(snd_pcm_link)(one, other);
}

int snd_pcm_drop(snd_pcm_t* pcm) {
  if (StandIn::present) ++StandIn::present->dropped;
  return YEWDRIFT_ITSELF(snd_pcm_drop)(pcm);
}

int inotify_add_watch(int inotify, const char* path, uint32_t mask) noexcept {
  if (StandIn::present && std::string(path) == "/dev/snd") path = StandIn::present->watched.c_str();
  return static_cast<int>(syscall(SYS_inotify_add_watch, inotify, path, mask));
}
}

namespace {

struct CardListener : AudioCallback {
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    ++blocks;
    dropouts += block.dropout ? 1 : 0;
    outputs = block.outputCount;
    for (int c = 0; c < block.outputCount; ++c)
      for (int i = 0; i < block.frames; ++i) block.outputs[c][i] = sample(played + i, c);
    played += block.frames;
  }
  static float sample(std::int64_t frame, int channel) {
    return static_cast<float>(frame % 60000 + 1) / (channel == 0 ? 65536.0F : -131072.0F);
  }
  std::int64_t played = 0;
  std::atomic<int> blocks{0};
  std::atomic<int> dropouts{0};
  std::atomic<int> outputs{-1};
};

/// ALSA's own names for cards lead to PCMs that hear and play nothing.
struct NamesOfCards {
  NamesOfCards() {
    std::ofstream(folder / "asound.conf")
        << "pcm.!hw { @args [ CARD DEV ] @args.CARD { type string } @args.DEV { type integer default 0 }\n"
        << " type null }\n"
        << "pcm.played { type file format raw file " << out.string() << " slave.pcm { type null } }\n";
    const std::string path = "/usr/share/alsa/alsa.conf:" + (folder / "asound.conf").string();
    setenv("ALSA_CONFIG_PATH", path.c_str(), 1);
    snd_config_update_free_global();
  }
  ~NamesOfCards() {
    unsetenv("ALSA_CONFIG_PATH");
    snd_config_update_free_global();
  }
  NamesOfCards(const NamesOfCards&) = delete;
  NamesOfCards& operator=(const NamesOfCards&) = delete;
  TemporaryFolder folder;
  const fs::path out = folder / "out.raw";
};

DeviceSettings settingsFor(const std::string& source, const std::string& sink, int channels = 2) {
  DeviceSettings settings;
  settings.driver = "ALSA";
  settings.rate = {48000};
  settings.blockFrames = 256;
  settings.inputs = channels;
  settings.outputs = channels;
  settings.source = source;
  settings.sink = sink;
  return settings;
}

std::map<int, Card> twoCards() {
  std::map<int, Card> cards;
  cards[0] = {"Ferry", "Ferry Audio 4", {{0, {"Line", true, true}}, {3, {"Loops", true, false}}}};
  cards[1] = {"Shut", "Not for everybody", {{0, {"Line", true, true}}}, false};
  cards[2] = {"Dumb", "Says nothing", {{0, {"Line", true, true}}}, true, false};
  cards[4] = {"Lamp", "Lamp Monitor", {{5, {"HDMI 1", false, true}}}};
  return cards;
}

}  // namespace

TEST_CASE("Every card is listed with what it records and plays; those that do not answer are left out") {
  StandIn standIn;
  standIn.cards = twoCards();
  const DriverListing listing = audioDriverNamed("ALSA").list();
  REQUIRE(listing.sources.size() == 2);
  CHECK(listing.sources[0].id == "hw:CARD=Ferry,DEV=0");
  CHECK(listing.sources[0].name == "Ferry Audio 4, Line");
  CHECK(listing.sources[0].isDefault);
  CHECK(listing.sources[1].id == "hw:CARD=Ferry,DEV=3");
  CHECK(listing.sources[1].name == "Ferry Audio 4, Loops");
  CHECK_FALSE(listing.sources[1].isDefault);
  REQUIRE(listing.sinks.size() == 2);
  CHECK(listing.sinks[0].id == "hw:CARD=Ferry,DEV=0");
  CHECK(listing.sinks[0].isDefault);
  CHECK(listing.sinks[1].id == "hw:CARD=Lamp,DEV=5");
  CHECK(listing.sinks[1].name == "Lamp Monitor, HDMI 1");
  CHECK_FALSE(listing.sinks[1].isDefault);
  for (const auto* points : {&listing.sources, &listing.sinks})
    for (const EndPoint& point : *points) CHECK(point.channels == 2);
}

TEST_CASE("Cards are offered where they only record or only play, whichever other drivers are not there") {
  StandIn standIn;
  const auto offered = [] {
    const std::vector<OfferedDriver> all = offeredDrivers();
    return std::any_of(all.begin(), all.end(), [](const OfferedDriver& each) { return each.name == "ALSA"; });
  };
  CHECK_FALSE(offered());
  for (const bool records : {true, false}) {
    standIn.cards = {{0, {"Lamp", "Lamp", {{0, {"Line", records, !records}}}}}};
    CHECK(offered());
  }
}

TEST_CASE("Without a choice the first card records and plays; by name another does; inputs follow it") {
  StandIn standIn;
  standIn.cards = twoCards();
  const NamesOfCards configuration;
  CardListener listener;
  {
    const auto device = audioDriverNamed("ALSA").open(settingsFor("", ""), listener);
    CHECK(device->settings().source == "hw:CARD=Ferry,DEV=0");
    CHECK(device->settings().sink == "hw:CARD=Ferry,DEV=0");
    CHECK(device->settings().outputs == 2);
    device->start();
    CHECK(device->report().sourceName == "Ferry Audio 4, Line");
  }
  {
    const auto device = audioDriverNamed("ALSA").open(settingsFor("", "Lamp Monitor, HDMI 1", 1), listener);
    CHECK(device->settings().sink == "hw:CARD=Lamp,DEV=5");
    CHECK(device->settings().outputs == 1);
    device->start();
    CHECK(device->report().sinkName == "Lamp Monitor, HDMI 1");
    CHECK(listener.outputs == 1);
  }
}

TEST_CASE("Where both directions run together a block is played as it was made, behind two of silence") {
  StandIn standIn;
  standIn.cards = twoCards();
  standIn.links = true;
  const NamesOfCards configuration;
  CardListener listener;
  {
    const auto device = audioDriverNamed("ALSA").open(settingsFor("", "played"), listener);
    device->start();
    CHECK(comesTrue(5.0, [&] { return listener.blocks > 60; }));
    CHECK(device->report().latency.empty());
    CHECK(device->reportedRoundTrip() == Frames{3 * 256});
    device->stop();
  }
  std::ifstream raw(configuration.out, std::ios::binary);
  const std::string bytes{std::istreambuf_iterator<char>(raw), {}};
  Samples played(bytes.size() / sizeof(float));
  std::memcpy(played.data(), bytes.data(), played.size() * sizeof(float));
  REQUIRE(played.size() == 2 * static_cast<std::size_t>(512 + listener.played));
  for (std::size_t i = 0; i < played.size() / 2; ++i)
    for (int side = 0; side < 2; ++side)
      REQUIRE(played[2 * i + static_cast<std::size_t>(side)] ==
              (i < 512 ? 0.0F : CardListener::sample(static_cast<std::int64_t>(i) - 512, side)));
}

TEST_CASE("A card that was late goes on, and every dropout is said; one that is gone is lost with its name") {
  StandIn standIn;
  standIn.cards = twoCards();
  const NamesOfCards configuration;
  CardListener listener;
  const auto device = audioDriverNamed("ALSA").open(settingsFor("", ""), listener);
  device->start();
  // More often in a long session than anybody counts, but never without a block between.
  standIn.everySecond = true;
  int expected = 0;
  for (const int error : {-EPIPE, -ESTRPIPE, -EIO}) {
    standIn.failWith = error;
    standIn.failReads = 90;
    expected += 90;
    CHECK(comesTrue(5.0, [&] { return listener.dropouts == expected; }));
    REQUIRE(device->alive());
  }
  CHECK(standIn.dropped >= 540);  // both directions
  const int before = listener.blocks;
  CHECK(comesTrue(5.0, [&] { return listener.blocks > before + 3; }));
  CHECK(listener.dropouts == 270);
  standIn.failWith = -ENODEV;
  standIn.failReads = 1;
  CHECK(comesTrue(5.0, [&] { return !device->alive(); }));
  CHECK(device->lossReason().english() == "\"Ferry Audio 4, Line\" is gone.");
  CHECK(listener.dropouts == 270);
}

TEST_CASE("A card that fails again and again, or cannot be made ready, is given up with a reason") {
  StandIn standIn;
  standIn.links = true;
  standIn.cards = twoCards();
  const NamesOfCards configuration;
  const auto lostBy = [&](const std::function<void()>& fault) {
    CardListener listener;
    const auto device = audioDriverNamed("ALSA").open(settingsFor("", ""), listener);
    device->start();
    fault();
    CHECK(comesTrue(5.0, [&] { return !device->alive(); }));
    return device->lossReason().english();
  };
  CHECK(lostBy([&] {
          standIn.failWith = -EPIPE;
          standIn.failReads = 1'000'000;
        }) == "The sound card failed: Broken pipe.");
  CHECK(standIn.failReads < 1'000'000 - 100);
  standIn.failReads = 0;
  CHECK(lostBy([&] {
          standIn.failWith = -EPIPE;
          standIn.failPrepares = 1;
          standIn.failReads = 1;
        }) == "The sound card failed: File descriptor in bad state.");
  CHECK(lostBy([&] {
          standIn.failWith = 0;  // it brings nothing
          standIn.failReads = 1'000'000;
        }) == "The sound card failed: Input/output error.");
  standIn.failReads = 0;
  CHECK(lostBy([&] {
          standIn.failWith = -EINVAL;  // no dropout
          standIn.failReads = 1;
        }) == "The sound card failed: Invalid argument.");
}

TEST_CASE("Cards that come and go are told of, other files are not") {
  const TemporaryFolder folder;
  StandIn standIn;
  standIn.watched = folder.path();
  std::atomic<int> told{0};
  const auto watch = audioDriverNamed("ALSA").watch([&] { ++told; });
  std::ofstream(folder / "timer") << "";
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  CHECK(told == 0);
  std::ofstream(folder / "pcmC1D0c") << "";
  CHECK(comesTrue(10.0, [&] { return told > 0; }));
  const int before = told;
  fs::remove(folder / "pcmC1D0c");
  CHECK(comesTrue(10.0, [&] { return told > before; }));
}
