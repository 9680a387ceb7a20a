// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/version_1.h"

#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/store/json_delta.h"
#include "core/store/json_values.h"
#include "core/store/session_json.h"

namespace yewdrift {
namespace {

using nlohmann::json;

constexpr std::uintmax_t longestOldLog = std::uintmax_t{256} << 20;
constexpr std::size_t mostRead = std::size_t{64} << 20;     // of lines
constexpr std::size_t mostApplied = std::size_t{64} << 20;  // of documents that deltas are applied to

/// Reads steps until too much was read.
class Reader {
 public:
  Reader(std::string log, std::size_t documentSize) : log_(std::move(log)), documentSize_(documentSize) {}

  /// Throws Error where there is none at that offset, or enough was read.
  json stepAt(const json& offset) {
    const auto from = static_cast<std::size_t>(wholeNumber(offset));  // below zero: beyond any log
    if (from >= log_.size()) throw Error("A step of the history is missing.");
    const std::size_t end = std::min(log_.find('\n', from), log_.size());
    read_ += end - from;
    applied_ += documentSize_;
    if (read_ > mostRead || applied_ > mostApplied)
      throw Error("The history is too long to be carried over.");
    return parsedJson(log_.substr(from, end - from), Sentence::verbatim("history.log"));
  }

 private:
  std::string log_;
  std::size_t documentSize_;
  std::size_t read_ = 0;
  std::size_t applied_ = 0;
};

struct Carried {
  std::string label;
  Session before;
  Session after;
};

Session applied(json& document, const json& step, const char* way) {
  document = applyJsonDelta(std::move(document), member(step, way));
  return sessionFromJson(document);
}

}  // namespace

CarriedHistory historyOfVersion1(const SessionDisk& disk, const json& document, const Session& now) {
  CarriedHistory carried{History(now), true};
  std::vector<Carried> steps;
  std::size_t done = 0;
  try {
    if (!document.contains("history")) return carried;
    const json& history = document["history"];
    const json& offsets = list(member(history, "done"));
    const json& undone = list(member(history, "undone"));
    if (offsets.empty() && undone.empty()) return carried;
    Reader reader(disk.read("history.log", longestOldLog), document.dump().size());
    const auto carry = [&](const json& list, const char* way, const auto& add) {
      json at = toJson(now);
      Session session = now;
      // The next step is the last in the list, either way.
      for (auto offset = list.rbegin(); offset != list.rend(); ++offset) try {
          const json step = reader.stepAt(*offset);
          Session next = applied(at, step, way);
          next.pool = now.pool;  // entries were never taken out of it
          add(text(member(step, "label")), session, next);
          session = std::move(next);
        } catch (const Error&) {
          carried.complete = false;
          return;
        }
    };
    carry(offsets, "back", [&](const std::string& label, const Session& from, const Session& to) {
      steps.insert(steps.begin(), {label, to, from});
    });
    done = steps.size();
    carry(undone, "forth", [&](const std::string& label, const Session& from, const Session& to) {
      steps.push_back({label, from, to});
    });
  } catch (const Error&) {
    carried.complete = false;
  }
  std::vector<History::Step> made;
  for (Carried& step : steps) {
    const auto id = static_cast<std::int64_t>(made.size()) + 1;
    made.push_back(std::make_shared<const HistoryStep>(id, id - 1, std::move(step.label),
                                                       std::move(step.before), std::move(step.after)));
  }
  carried.history = History(0, History::Steps(made), done, now, static_cast<std::int64_t>(made.size()));
  return carried;
}

}  // namespace yewdrift
