// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/performer_file.h"

#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/store/audio_file.h"
#include "core/store/json_values.h"

namespace yewdrift {

using nlohmann::json;

void writePerformerFile(const SessionDisk& disk, const std::vector<PerformerFilePart>& parts) {
  json list = json::array();
  for (const PerformerFilePart& part : parts)
    list.push_back({{"firstInput", part.firstInput}, {"at", part.at.count}, {"files", part.files}});
  disk.replace("performer/performer.json", json{{"parts", list}}.dump(1));
}

Performance readPerformance(OpenFile file, SampleRate rate) {
  const std::string name = file.name;
  AudioReader reader(std::move(file));
  if (reader.info().rate != rate)
    throw Error("The performance \"%1\" is at %2 Hz and the session at %3 Hz.", name,
                reader.info().rate.hertz, rate.hertz);
  const auto channels = static_cast<std::size_t>(reader.info().channels);
  constexpr std::int64_t blockFrames = 65536;
  std::vector<float> block(channels * static_cast<std::size_t>(blockFrames));
  Performance performance;
  performance.channels.resize(channels);
  // What is there counts, not what the header says.
  for (Frames at;; at += Frames{blockFrames}) {
    const auto got = static_cast<std::size_t>(reader.readAt(at, blockFrames, block.data()));
    for (std::size_t i = 0; i < got; ++i)
      for (std::size_t channel = 0; channel < channels; ++channel)
        performance.channels[channel].push_back(block[i * channels + channel]);
    if (got < static_cast<std::size_t>(blockFrames)) return performance;
  }
}

std::vector<PerformerPart> readPerformerFile(const SessionDisk& disk, SampleRate rate) {
  std::vector<PerformerPart> parts;
  try {
    const json document = json::parse(disk.read("performer/performer.json", 1 << 20));
    for (const json& entry : document.at("parts")) {
      PerformerPart part;
      part.firstInput = smallNumber(entry.at("firstInput"));
      part.at = {wholeNumber(entry.at("at"))};
      part.startOver = true;
      part.ringAfterJump = framesFromSeconds(0.5, rate);
      for (const json& file : entry.at("files"))
        part.performances.push_back(readPerformance(
            disk.open("performer/" + std::filesystem::path(file.get<std::string>()).filename().string()),
            rate));
      parts.push_back(std::move(part));
    }
  } catch (const std::exception&) {
    return {};
  }
  return parts;
}

}  // namespace yewdrift
