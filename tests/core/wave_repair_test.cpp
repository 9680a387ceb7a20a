// SPDX-License-Identifier: GPL-3.0-or-later
// Files larger than the sizes in a WAV header, and RF64 files that nobody finished: they are holes but for
// their ends, so that they take no room here.
#include "core/store/wave_repair.h"

#include <fcntl.h>

#include "core/core_tests.h"

namespace {

constexpr std::int64_t headBytes = 44;
constexpr std::int64_t frameBytes = 4;  // two channels of 16 bit

std::string encoded(const std::vector<std::int16_t>& samples) {
  std::string bytes(samples.size() * 2, '\0');
  std::memcpy(bytes.data(), samples.data(), bytes.size());
  return bytes;
}

/// A file with that head and so many bytes behind it: the first frame is (1, -2), the last (3, -4), and what
/// else is given stands behind them.
void writeHoles(const fs::path& path, const std::string& head, std::int64_t dataBytes,
                const std::string& behind = {}) {
  std::ofstream file(path, std::ios::binary);
  file << head << encoded({1, -2});
  file.seekp(static_cast<std::streamoff>(head.size()) + dataBytes - frameBytes);
  file << encoded({3, -4}) << behind;
  REQUIRE(file.good());
}

Samples frameAt(AudioReader& reader, std::int64_t at) {
  Samples frame(2, -9.0F);
  REQUIRE(reader.readAt(Frames{at}, 1, frame.data()) == 1);
  return {frame[0] * 32768.0F, frame[1] * 32768.0F};
}

/// The sizes in the header as any reader would be shown them: EBU Tech 3306 for RF64, else RIFF.
void checkHeader(const fs::path& path, std::int64_t dataBytes) {
  RepairedFile file{Descriptor(::open(path.c_str(), O_RDONLY | O_CLOEXEC))};
  CHECK(file.repaired());
  std::string head(128, '\0');
  REQUIRE(RepairedFile::access()->read(head.data(), 128, &file) == 128);
  const std::int64_t length = RepairedFile::access()->get_filelen(&file);
  const auto number = [&](std::size_t at, std::size_t bytes) {
    std::int64_t found = 0;
    std::memcpy(&found, head.data() + at, bytes);
    return found;
  };
  const std::size_t data = head.find("data");
  REQUIRE(data != std::string::npos);
  // All but the first eight bytes, up to the last whole frame.
  const std::int64_t whole = dataBytes / frameBytes * frameBytes;
  const std::int64_t riff = static_cast<std::int64_t>(data) + whole;
  CHECK(length - 8 >= riff);
  CHECK(length - 8 < riff + frameBytes);
  if (head.substr(0, 4) == "RIFF") {
    CHECK(number(4, 4) == riff);
    CHECK(number(data + 4, 4) == whole);
    return;
  }
  CHECK(head.substr(0, 4) == "RF64");
  CHECK(head.substr(8, 8) == "WAVEds64");
  CHECK(number(4, 4) == 0xFFFFFFFF);
  CHECK(number(data + 4, 4) == 0xFFFFFFFF);
  CHECK(number(16, 4) == 28);
  CHECK(number(20, 8) == riff);
  CHECK(number(28, 8) == whole);
  CHECK(number(36, 8) == whole / frameBytes);
  CHECK(number(44, 4) == 0);  // no table
}

void checkWhole(const fs::path& path, std::int64_t dataBytes) {
  checkHeader(path, dataBytes);
  AudioReader reader(openAnywhere(path), AudioReader::Header::PutRight);
  CHECK(reader.putRight());
  const std::int64_t frames = dataBytes / frameBytes;
  REQUIRE(reader.info().length == Frames{frames});
  CHECK(reader.info().channels == 2);
  CHECK(reader.info().rate.hertz == 48000);
  Samples first(2, -9.0F);
  REQUIRE(reader.readOn(1, first.data()) == 1);
  CHECK(first == Samples{1.0F / 32768.0F, -2.0F / 32768.0F});
  CHECK(frameAt(reader, frames - 1) == Samples{3.0F, -4.0F});
  CHECK(reader.shareRead() == Approx(1.0));
  CHECK(frameAt(reader, 0) == Samples{1.0F, -2.0F});
  CHECK(frameAt(reader, 1) == Samples{0.0F, 0.0F});
  CHECK(frameAt(reader, frames / 2) == Samples{0.0F, 0.0F});
  Samples beyond(20, -9.0F);
  CHECK(reader.readAt(Frames{frames - 1}, 10, beyond.data()) == 1);
}

/// The sizes in an RF64 file (EBU Tech 3306): of the whole but eight bytes, of the data, and in frames.
std::string rf64Head(std::int64_t riff, std::int64_t data, std::int64_t frames, std::uint32_t dataChunk) {
  std::string head = waveHead(2, 16, 4, dataChunk);
  head.replace(0, 4, "RF64");
  const std::uint32_t elsewhere = 0xFFFFFFFFU;
  std::memcpy(head.data() + 4, &elsewhere, 4);
  std::string sizes("ds64\x1C\0\0\0", 8);
  for (const std::int64_t size : {riff, data, frames})
    sizes.append(reinterpret_cast<const char*>(&size), sizeof size);
  sizes.append(4, '\0');
  return head.insert(12, sizes);
}

}  // namespace

TEST_CASE("A WAV file beyond what 32 bits say is read to its end, whatever its header says of its length") {
  const TemporaryFolder temporary;
  const fs::path path = temporary / "long.wav";
  const std::int64_t five = std::int64_t{5} << 30;
  // 0, nothing known, what pipes leave, and what is left of the size in 32 bits.
  for (const std::uint32_t said :
       {0U, 0xFFFFFFFFU, 0x7FFFF000U, static_cast<std::uint32_t>(five & 0xFFFFFFFF)}) {
    INFO("It says " << said);
    writeHoles(path, waveHead(2, 16, 4, said), five);
    checkWhole(path, five);
    CHECK(static_cast<std::int64_t>(fs::file_size(path)) == headBytes + five);
  }
  // Between what a number with and without sign holds; and a frame that is cut off.
  const std::int64_t three = std::int64_t{3} << 30;
  writeHoles(path, waveHead(2, 16, 4, 0x7FFFF000U), three);
  checkWhole(path, three);
  writeHoles(path, waveHead(2, 16, 4, 0), five, "abc");
  checkWhole(path, five);
}

TEST_CASE("An RF64 file that nobody finished is read for what it holds") {
  const TemporaryFolder temporary;
  const fs::path path = temporary / "long.wav";
  for (const std::int64_t data : {std::int64_t{4000}, std::int64_t{5} << 30}) {
    writeHoles(path, rf64Head(0, 0, 0, 0xFFFFFFFFU), data);
    checkWhole(path, data);
    writeHoles(path, rf64Head(0, 0, 0, 0), data);
    checkWhole(path, data);
    writeHoles(path, rf64Head(data + 100'000, data + 99'000, data, 0xFFFFFFFFU), data);
    checkWhole(path, data);
    // One that is right stays as it is.
    writeHoles(path, rf64Head(data + 72, data, data / frameBytes, 0xFFFFFFFFU), data);
    AudioReader reader(openAnywhere(path), AudioReader::Header::PutRight);
    CHECK_FALSE(reader.putRight());
    CHECK(reader.info().length == Frames{data / frameBytes});
    CHECK(frameAt(reader, data / frameBytes - 1) == Samples{3.0F, -4.0F});
  }
}

TEST_CASE("A header that is cut off, or has its samples behind a thousand other chunks, is shown as it is") {
  const TemporaryFolder temporary;
  const fs::path path = temporary / "short.wav";
  const auto isPutRight = [&](const std::string& bytes) {
    std::ofstream(path, std::ios::binary) << bytes;
    RepairedFile file{Descriptor(::open(path.c_str(), O_RDONLY | O_CLOEXEC))};
    std::string read(bytes.size() + 1, '\0');
    CHECK(RepairedFile::access()->read(read.data(), static_cast<sf_count_t>(read.size()), &file) ==
          static_cast<sf_count_t>(bytes.size()));
    read.pop_back();
    CHECK((read == bytes) == !file.repaired());
    return file.repaired();
  };
  const std::string head = waveHead(2, 16, 4, 0);
  for (std::size_t bytes = 0; bytes < head.size(); ++bytes) {
    INFO(bytes << " bytes");
    CHECK_FALSE(isPutRight(head.substr(0, bytes)));
  }
  CHECK(isPutRight(head + "abcd"));
  // Said are 4 bytes, and more than there are by a few, by a header's length and by much.
  for (const std::uint32_t said : {4U, 5U, 8U, 47U, 48U, 49U, 92U, 93U, 5000U}) {
    INFO(said << " said");
    CHECK(isPutRight(waveHead(2, 16, 4, said) + "abcd") == (said > 4));
  }
  // Behind the format and 998 others they are in the thousandth.
  const auto behind = [&head](std::size_t others) {
    std::string bytes = head + "abcd";
    for (std::size_t i = 0; i < others; ++i) bytes.insert(12, std::string("junk\0\0\0\0", 8));
    return bytes;
  };
  CHECK(isPutRight(behind(998)));
  CHECK_FALSE(isPutRight(behind(999)));
}
