// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <alsa/asoundlib.h>

#include <memory>
#include <string>
#include <vector>

namespace yewdrift {

/// How a PCM is to run; changed by openPcm() to how it runs.
struct PcmSettings {
  int rate = 48000;
  int channels = 2;
  int period = 256;
  int periods = 3;
};

/// One direction of a card, opened interleaved in the best format it has, with floats on this side.
class AlsaPcm {
 public:
  /// Throws Error with a sentence. Channels are at most those asked for where `most`, else at least.
  AlsaPcm(const std::string& id, const std::string& shown, bool capture, PcmSettings& settings);
  [[nodiscard]] snd_pcm_t* handle() const { return pcm_.get(); }
  [[nodiscard]] const PcmSettings& settings() const { return settings_; }

  /// Frames moved, or a negative error of ALSA's; waits for room or material.
  int read(float* interleaved, int frames);
  int write(const float* interleaved, int frames);

 private:
  struct Close {
    void operator()(snd_pcm_t* pcm) const { snd_pcm_close(pcm); }
  };
  std::unique_ptr<snd_pcm_t, Close> pcm_;
  PcmSettings settings_;
  snd_pcm_format_t format_ = SND_PCM_FORMAT_FLOAT_LE;
  std::vector<unsigned char> raw_;
};

}  // namespace yewdrift
