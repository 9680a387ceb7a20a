// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/alsa/alsa_pcm.h"

#include <algorithm>
#include <array>

#include "core/device/alsa/alsa_samples.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr std::array formats{SND_PCM_FORMAT_FLOAT_LE, SND_PCM_FORMAT_S32_LE, SND_PCM_FORMAT_S24_3LE,
                             SND_PCM_FORMAT_S16_LE};

Sentence why(int error, const std::string& shown) {
  switch (-error) {
    case EBUSY:
      return Sentence("\"%1\" is in use by another program or by the desktop's sound server.", shown);
    case EACCES:
    case EPERM:
      return Sentence("\"%1\" may not be used by this user; join the group \"audio\".", shown);
    case ENOENT:
    case ENODEV:
      return Sentence("\"%1\" is not there; is it plugged in?", shown);
    default:
      return Sentence("\"%1\" cannot be opened: %2.", shown, snd_strerror(error));
  }
}

std::size_t bytesOf(snd_pcm_format_t format) {
  return static_cast<std::size_t>(snd_pcm_format_physical_width(format)) / 8;
}

}  // namespace

AlsaPcm::AlsaPcm(const std::string& id, const std::string& shown, bool capture, PcmSettings& settings) {
  snd_pcm_t* opened = nullptr;
  const snd_pcm_stream_t direction = capture ? SND_PCM_STREAM_CAPTURE : SND_PCM_STREAM_PLAYBACK;
  int failed = snd_pcm_open(&opened, id.c_str(), direction, SND_PCM_NONBLOCK);
  if (failed < 0) throw Error(why(failed, shown));
  pcm_.reset(opened);
  snd_pcm_nonblock(opened, 0);
  snd_pcm_hw_params_t* hardware = nullptr;
  snd_pcm_hw_params_malloc(&hardware);
  const std::unique_ptr<snd_pcm_hw_params_t, void (*)(snd_pcm_hw_params_t*)> owner(hardware,
                                                                                   &snd_pcm_hw_params_free);
  auto require = [&](int result, Pattern<std::string, std::string> refusal) {
    if (result < 0) throw Error(refusal, shown, std::string(snd_strerror(result)));
  };
  require(snd_pcm_hw_params_any(opened, hardware), "\"%1\" does not do anything: %2.");
  require(snd_pcm_hw_params_set_access(opened, hardware, SND_PCM_ACCESS_RW_INTERLEAVED),
          "\"%1\" does not do interleaved samples: %2.");
  failed = -EINVAL;
  for (const snd_pcm_format_t format : formats) {
    failed = snd_pcm_hw_params_set_format(opened, hardware, format);
    format_ = format;
    if (failed == 0) break;
  }
  require(failed, "\"%1\" does not do 16, 24 or 32 bit samples: %2.");
  // A card that has none of the session's rate is opened at the nearest it has.
  snd_pcm_hw_params_set_rate_resample(opened, hardware, 0);
  auto rate = static_cast<unsigned>(settings.rate);
  require(snd_pcm_hw_params_set_rate_near(opened, hardware, &rate, nullptr),
          "\"%1\" does not do any rate: %2.");
  unsigned most = 0;
  if (snd_pcm_hw_params_get_channels_max(hardware, &most) < 0 || most == 0) most = 2;
  auto channels = static_cast<unsigned>(settings.channels);
  if (capture && most <= 128) channels = std::max(channels, most);
  require(snd_pcm_hw_params_set_channels_near(opened, hardware, &channels),
          "\"%1\" does not do any channels: %2.");
  auto period = static_cast<snd_pcm_uframes_t>(settings.period);
  require(snd_pcm_hw_params_set_period_size_near(opened, hardware, &period, nullptr),
          "\"%1\" does not do blocks: %2.");
  snd_pcm_uframes_t buffer = period * static_cast<snd_pcm_uframes_t>(capture ? 8 : settings.periods);
  require(snd_pcm_hw_params_set_buffer_size_near(opened, hardware, &buffer),
          "\"%1\" does not do buffers: %2.");
  failed = snd_pcm_hw_params(opened, hardware);
  if (failed < 0) throw Error(why(failed, shown));
  settings.rate = static_cast<int>(rate);
  settings.channels = static_cast<int>(channels);
  settings.period = static_cast<int>(period);
  settings.periods = std::max(2, static_cast<int>(buffer / std::max<snd_pcm_uframes_t>(1, period)));
  settings_ = settings;

  snd_pcm_sw_params_t* software = nullptr;
  snd_pcm_sw_params_malloc(&software);
  const std::unique_ptr<snd_pcm_sw_params_t, void (*)(snd_pcm_sw_params_t*)> softwareOwner(
      software, &snd_pcm_sw_params_free);
  snd_pcm_sw_params_current(opened, software);
  // Started by hand, so that both directions begin together.
  snd_pcm_uframes_t boundary = 0;
  snd_pcm_sw_params_get_boundary(software, &boundary);
  snd_pcm_sw_params_set_start_threshold(opened, software, boundary);
  snd_pcm_sw_params(opened, software);
  raw_.resize(static_cast<std::size_t>(period) * channels * bytesOf(format_));
}

int AlsaPcm::read(float* interleaved, int frames) {
  const std::size_t width = bytesOf(format_);
  const auto channels = static_cast<std::size_t>(settings_.channels);
  const auto most = static_cast<snd_pcm_uframes_t>(std::min(frames, settings_.period));
  const snd_pcm_sframes_t got = snd_pcm_readi(pcm_.get(), raw_.data(), most);
  for (std::size_t i = 0; got > 0 && i < static_cast<std::size_t>(got) * channels; ++i)
    interleaved[i] = sampleFrom(&raw_[i * width], format_);
  return static_cast<int>(got);
}

int AlsaPcm::write(const float* interleaved, int frames) {
  const std::size_t width = bytesOf(format_);
  const auto channels = static_cast<std::size_t>(settings_.channels);
  const auto most = static_cast<snd_pcm_uframes_t>(std::min(frames, settings_.period));
  for (std::size_t i = 0; i < most * channels; ++i) sampleTo(&raw_[i * width], interleaved[i], format_);
  return static_cast<int>(snd_pcm_writei(pcm_.get(), raw_.data(), most));
}

}  // namespace yewdrift
