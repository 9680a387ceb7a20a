// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/pitch_shift.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/signal/finite.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

constexpr int atOnce = 4096;

/// Room for some frames of every channel.
class Block {
 public:
  explicit Block(int channels) : samples_(static_cast<std::size_t>(channels), std::vector<float>(atOnce)) {
    for (auto& channel : samples_) pointers_.push_back(channel.data());
  }
  [[nodiscard]] float* const* pointers() { return pointers_.data(); }
  void silence() {
    for (auto& channel : samples_) std::fill(channel.begin(), channel.end(), 0.0F);
  }
  /// Rubber Band does not bear what is not a number.
  void clean(int count) {
    for (auto& channel : samples_)
      for (int i = 0; i < count; ++i)
        channel[static_cast<std::size_t>(i)] = finite(channel[static_cast<std::size_t>(i)]);
  }

 private:
  std::vector<std::vector<float>> samples_;
  std::vector<float*> pointers_;
};

}  // namespace

bool shiftPitch(const PitchShift& shift) {
  using Stretcher = RubberBand::RubberBandStretcher;
  if (shift.length.count <= 0) return true;
  Stretcher stretcher(static_cast<std::size_t>(shift.rate.hertz), static_cast<std::size_t>(shift.channels),
                      Stretcher::OptionProcessOffline | Stretcher::OptionEngineFiner |
                          Stretcher::OptionChannelsTogether | Stretcher::OptionThreadingNever,
                      1.0, std::exp2(shift.by.value / 1200.0));
  stretcher.setMaxProcessSize(atOnce);
  stretcher.setExpectedInputDuration(static_cast<std::size_t>(shift.length.count));
  Block in(shift.channels);
  Block out(shift.channels);
  // It is heard through once before, then worked on: the share of the first is small.
  constexpr double shareOfStudy = 0.05;
  const auto through = [&](double from, double share, auto each) {
    const Span all{{}, shift.length};
    for (const Span part : SpanParts(all, {atOnce})) {
      const auto count = static_cast<int>(part.length().count);
      shift.read(part.start, count, in.pointers());
      in.clean(count);
      each(count, part.end == all.end);
      if (shift.progress && !shift.progress(from + share * shareBefore(all, part.end))) return false;
    }
    return true;
  };
  std::int64_t left = shift.length.count;
  const auto fetch = [&] {
    for (int there = stretcher.available(); there > 0; there = stretcher.available()) {
      const auto count = static_cast<std::size_t>(std::min(there, atOnce));
      const auto got = static_cast<std::int64_t>(stretcher.retrieve(out.pointers(), count));
      const std::int64_t wanted = std::min(got, left);
      if (wanted > 0) shift.write(out.pointers(), static_cast<int>(wanted));
      left -= wanted;
    }
  };
  if (!through(0.0, shareOfStudy, [&](int count, bool last) {
        stretcher.study(in.pointers(), static_cast<std::size_t>(count), last);
      }))
    return false;
  if (!through(shareOfStudy, 1.0 - shareOfStudy, [&](int count, bool last) {
        stretcher.process(in.pointers(), static_cast<std::size_t>(count), last);
        fetch();
      }))
    return false;
  fetch();
  out.silence();
  for (; left > 0; left -= atOnce)
    shift.write(out.pointers(), static_cast<int>(std::min<std::int64_t>(left, atOnce)));
  return true;
}

}  // namespace yewdrift
