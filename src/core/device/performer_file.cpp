// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/performer_file.h"

#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/store/atomic_file.h"
#include "core/store/audio_file.h"
#include "core/store/json_numbers.h"

namespace yewdrift {

using nlohmann::json;

void writePerformerFile(const std::filesystem::path& sessionFolder,
                        const std::vector<PerformerFilePart>& parts) {
  json list = json::array();
  for (const PerformerFilePart& part : parts)
    list.push_back({{"firstInput", part.firstInput}, {"at", part.at.count}, {"files", part.files}});
  writeWhole(sessionFolder / "performer" / "performer.json", json{{"parts", list}}.dump(1));
}

Performance readPerformance(const std::filesystem::path& path, SampleRate rate) {
  AudioReader reader(path);
  if (reader.info().rate != rate)
    throw Error("The performance \"" + path.filename().string() + "\" is at " +
                std::to_string(reader.info().rate.hertz) + " Hz and the session at " +
                std::to_string(rate.hertz) + " Hz.");
  const auto channels = static_cast<std::size_t>(reader.info().channels);
  const auto frames = static_cast<std::size_t>(reader.info().length.count);
  std::vector<float> interleaved(channels * frames);
  if (frames > 0) reader.readAt({}, static_cast<std::int64_t>(frames), interleaved.data());
  Performance performance;
  performance.channels.assign(channels, std::vector<float>(frames));
  for (std::size_t i = 0; i < frames; ++i)
    for (std::size_t channel = 0; channel < channels; ++channel)
      performance.channels[channel][i] = interleaved[i * channels + channel];
  return performance;
}

std::vector<PerformerPart> readPerformerFile(const std::filesystem::path& sessionFolder, SampleRate rate) {
  const std::filesystem::path folder = sessionFolder / "performer";
  std::vector<PerformerPart> parts;
  try {
    const json document = json::parse(readWhole(folder / "performer.json", 1 << 20));
    for (const json& entry : document.at("parts")) {
      PerformerPart part;
      part.firstInput = smallNumber(entry.at("firstInput"));
      part.at = {wholeNumber(entry.at("at"))};
      part.startOver = true;
      part.ringAfterJump = framesFromSeconds(0.5, rate);
      for (const json& file : entry.at("files"))
        part.performances.push_back(
            readPerformance(folder / std::filesystem::path(file.get<std::string>()).filename(), rate));
      parts.push_back(std::move(part));
    }
  } catch (const std::exception&) {
    return {};
  }
  return parts;
}

}  // namespace yewdrift
