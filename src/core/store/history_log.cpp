// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/history_log.h"

#include <sys/stat.h>
#include <unistd.h>
#include <xxhash.h>

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/session/limits.h"
#include "core/store/json_values.h"
#include "core/store/session_delta.h"
#include "core/store/session_json.h"
#include "core/store/transfer.h"

namespace yewdrift {
namespace {

using nlohmann::json;
using Entry = HistoryLog::Entry;

constexpr const char* logName = "steps.log";
constexpr const char* firstLine = "yewdrift-steps 2\n";
constexpr char recordStart = '\x1e';  // as in JSON text sequences (RFC 7464): no JSON text has one inside
constexpr std::int64_t longestHead = 65536;
constexpr std::int64_t longestLog = std::int64_t{1} << 36;
constexpr std::int64_t leastBetweenStates = 65536;
constexpr std::int64_t leastToCompact = std::int64_t{4} << 20;

constexpr std::pair<Entry::Kind, std::string_view> recordKinds[] = {{Entry::Kind::Step, "step"},
                                                                    {Entry::Kind::Whole, "whole"}};

std::string checksum(std::string_view record) {
  char digits[17];
  std::snprintf(digits, sizeof digits, "%016llx",
                static_cast<unsigned long long>(XXH3_64bits(record.data(), record.size())));
  return digits;
}

/// All of a record's first line that the checksum covers.
std::string headOf(const Entry& entry) {
  std::string kind;
  for (const auto& [each, name] : recordKinds)
    if (each == entry.kind) kind = name;
  return kind + " " + std::to_string(entry.id) + " " + std::to_string(entry.parent) + " " + entry.from + " " +
         std::to_string(entry.length) + " " + json(entry.label).dump();
}

std::string recordOf(Entry entry, const std::string& body) {
  entry.length = static_cast<std::int64_t>(body.size());
  const std::string record = headOf(entry) + "\n" + body;
  return recordStart + checksum(record) + " " + record + "\n";
}

/// A label as it was written; none where that is no text.
std::optional<std::string> readLabel(std::string_view written) {
  const bool plain = written.size() >= 2 && written.front() == '"' && written.back() == '"' &&
                     std::all_of(written.begin() + 1, written.end() - 1,
                                 [](char c) { return c >= 0x20 && c < 0x7F && c != '\\' && c != '"'; });
  if (plain) return std::string(written.substr(1, written.size() - 2));
  const json label = json::parse(written, nullptr, false);
  return label.is_string() ? std::optional(label.get<std::string>()) : std::nullopt;
}

/// What stands before the next blank; nothing at the end.
std::string_view readWord(std::string_view& rest) {
  const std::string_view word = rest.substr(0, rest.find(' '));
  rest.remove_prefix(std::min(rest.size(), word.size() + 1));
  return word;
}

bool readNumber(std::string_view& rest, std::int64_t& into) {
  const std::string_view word = readWord(rest);
  return std::from_chars(word.data(), word.data() + word.size(), into).ec == std::errc();
}

/// The record that begins at `at` of what has been read; none where it is not whole.
std::optional<Entry> entryAt(std::string_view log, std::size_t at) {
  const std::size_t lineEnd = log.substr(at, longestHead).find('\n');
  if (lineEnd == std::string_view::npos) return std::nullopt;
  std::string_view rest = log.substr(at + 1, lineEnd - 1);
  const std::string_view sum = readWord(rest);
  const std::size_t head = at + 1 + sum.size() + 1;
  Entry entry;
  const std::string_view kind = readWord(rest);
  const auto* const known = std::find_if(std::begin(recordKinds), std::end(recordKinds),
                                         [kind](const auto& each) { return each.second == kind; });
  if (known == std::end(recordKinds) || !readNumber(rest, entry.id) || !readNumber(rest, entry.parent))
    return std::nullopt;
  entry.kind = known->first;
  entry.from = readWord(rest);
  if (!readNumber(rest, entry.length)) return std::nullopt;
  auto label = readLabel(rest);
  if (!label) return std::nullopt;
  entry.label = std::move(*label);
  entry.record = static_cast<std::int64_t>(at);
  entry.body = static_cast<std::int64_t>(at + lineEnd + 1);
  const std::string_view behind = log.substr(at + lineEnd + 1);
  const auto length = static_cast<std::size_t>(entry.length);  // less than nothing is more than there is
  if (length >= behind.size() || behind[length] != '\n') return std::nullopt;
  if (checksum(log.substr(head, at + lineEnd + 1 + length - head)) != sum) return std::nullopt;
  return entry;
}

std::int64_t endOf(const Entry& entry) {
  return entry.body + entry.length + 1;
}

std::string readStretch(const OpenFile& file, std::int64_t from, std::int64_t length) {
  std::string bytes(static_cast<std::size_t>(length), '\0');
  if (readFrom(file.descriptor.get(), from, bytes.data(), length).bytes != length)
    throw Error("The history of this session cannot be read: it has become shorter.");
  return bytes;
}

/// The body of a record, which must still be what it was when it was found.
std::string checkedBody(const OpenFile& file, const Entry& entry) {
  const std::string record = readStretch(file, entry.record, endOf(entry) - entry.record);
  if (!entryAt(record, 0)) throw Error("A step of the history is damaged; it cannot be undone or redone.");
  return record.substr(static_cast<std::size_t>(entry.body - entry.record),
                       static_cast<std::size_t>(entry.length));
}

/// A step as JSON, and the files that came into the pool with it.
std::string bodyFor(const HistoryStep::Values& values) {
  json body = sessionDelta(values.before, values.after);
  json files = json::array();
  for (std::size_t i = values.before.pool->size(); i < values.after.pool->size(); ++i)
    files.push_back({{"index", i}, {"file", toJson((*values.after.pool)[i])}});
  if (!files.empty()) body["files"] = std::move(files);
  return body.dump();
}

/// Each at its place: between them lie those of steps that were undone, which nothing here names.
void addFiles(Session& session, const json& body) {
  if (!body.contains("files")) return;
  for (const json& each : list(body["files"])) {
    const std::int64_t index = wholeNumber(member(each, "index"));
    if (index < 0 || index >= static_cast<std::int64_t>(limits::files))
      throw Error("A step of the history names an impossible file.");
    auto& pool = session.pool.edit();
    while (static_cast<std::int64_t>(pool.size()) < index)
      pool.push_back({"audio/unknown-" + std::to_string(pool.size()), 1, {}});
    if (static_cast<std::int64_t>(pool.size()) == index) pool.push_back(poolFileFrom(member(each, "file")));
  }
}

}  // namespace

struct HistoryLog::File {
  OpenFile open;
};

HistoryLog::HistoryLog(SessionDisk disk) : disk_(std::move(disk)) {
  if (disk_.kindOf(logName) == SessionDisk::Kind::Nothing) return;
  file_ = std::make_shared<const File>(File{disk_.open(logName)});
  scan();
}

void HistoryLog::scan() {
  const std::string log = readAll(file_->open, longestLog);
  const std::string_view view(log);
  std::size_t at = view.find(recordStart);
  while (at != std::string_view::npos) {
    auto entry = entryAt(view, at);
    harmed_ = harmed_ || !entry;
    at = view.find(recordStart, entry ? static_cast<std::size_t>(endOf(*entry)) : at + 1);
    if (entry) take(std::move(*entry));
  }
  size_ = static_cast<std::int64_t>(log.size());
}

void HistoryLog::take(Entry entry) {
  const bool step = entry.kind == Entry::Kind::Step;
  sinceState_ = step ? sinceState_ + entry.length : 0;
  highest_ = std::max(highest_, entry.id);
  (step ? steps_ : states_).insert_or_assign(entry.id, std::move(entry));
}

std::vector<Entry> HistoryLog::leadingTo(std::int64_t to, std::int64_t root) const {
  std::vector<Entry> entries;
  // A step follows one that was made before it; what says anything else leads nowhere.
  std::int64_t wanted = to;
  for (auto at = steps_.rbegin(); at != steps_.rend(); ++at)
    if (at->first == wanted && wanted != root && at->second.parent < wanted) {
      entries.push_back(at->second);
      wanted = at->second.parent;
    }
  return entries;
}

std::vector<Entry> HistoryLog::leadingOn(std::int64_t from) const {
  std::set<std::int64_t> following{from};
  for (const auto& [id, step] : steps_)
    if (following.contains(step.parent)) following.insert(id);
  std::vector<Entry> way = leadingTo(*following.rbegin(), from);
  std::reverse(way.begin(), way.end());
  return way;
}

History::Step HistoryLog::stepOf(const Entry& entry) const {
  return std::make_shared<const HistoryStep>(entry.id, entry.parent, entry.label, wayOf(entry));
}

void HistoryLog::leaveToDisk(const HistoryStep& step) const {
  if (const auto entry = steps_.find(step.id()); entry != steps_.end())
    step.leaveToDisk(wayOf(entry->second));
}

HistoryStep::Way HistoryLog::wayOf(const Entry& step) const {
  // No more of it is kept than finding it again takes: there are many.
  Entry place = step;
  place.label.clear();
  place.from.clear();
  return [file = file_, place](const Session& from, HistoryStep::Direction direction) {
    Session there = applyDelta(
        from, parsedJson(checkedBody(file->open, place), Sentence("A step of the history")), direction);
    // What it names must be there; the pool is not its matter.
    checkInvariants(there);
    return there;
  };
}

std::string HistoryLog::bodyOf(const Entry& entry) const {
  return checkedBody(file_->open, entry);
}

void HistoryLog::collectFiles(const HistoryStep& step, std::set<int>& files) const {
  const auto entry = steps_.find(step.id());
  if (entry == steps_.end()) return;
  // Sources of clips, wherever in the delta a clip stands.
  const auto collect = [&files](const json& value, const auto& again) -> void {
    if (value.is_object() && value.contains("channels") && value["channels"].is_array())
      for (const json& source : value["channels"])
        if (source.is_array() && !source.empty() && source[0].is_number_integer())
          files.insert(smallNumber(source[0]));
    if (value.is_structured())
      for (const json& each : value) again(each, again);
  };
  collect(parsedJson(bodyOf(entry->second), Sentence("A step of the history")), collect);
}

std::optional<Session> HistoryLog::rebuilt(std::int64_t step) const {
  try {
    std::vector<Entry> since;
    auto state = states_.find(step);
    for (const Entry& entry : leadingTo(step)) {
      if (state != states_.end()) break;
      since.push_back(entry);
      state = states_.find(entry.parent);
    }
    if (state == states_.end()) return std::nullopt;
    const json whole = parsedJson(bodyOf(state->second), Sentence("A state of the history"));
    if (!since.empty() && since.back().from != stateHash(whole)) return std::nullopt;
    Session session = sessionFromJson(whole);
    for (auto entry = since.rbegin(); entry != since.rend(); ++entry) {
      const json body = parsedJson(bodyOf(*entry), Sentence("A step of the history"));
      addFiles(session, body);
      session = applyDelta(session, body, HistoryStep::Direction::Forth);
    }
    checkInvariants(session);
    return session;
  } catch (const Error&) {
    return std::nullopt;
  }
}

void HistoryLog::append(const History& history, const std::string& presentHash) {
  std::size_t first = history.steps().size();
  while (first > 0 && !has(history.steps()[first - 1]->id())) --first;
  if (first == history.steps().size()) return;
  std::string records = empty() ? firstLine : "";
  std::int64_t since = sinceState_;
  for (std::size_t i = first; i < history.steps().size(); ++i) {
    const HistoryStep& step = *history.steps()[i];
    const auto values = step.values();
    if (!values) throw Error("A step of the history is gone from the disk; it cannot be saved.");
    if (states_.empty() && i == first) {
      const json before = toJson(values->before);
      records += recordOf({Entry::Kind::Whole, step.parent(), 0, stateHash(before), {}}, before.dump());
      since = 0;
    }
    const std::string body = bodyFor(*values);
    if (hashed_ != step.parent()) hash_ = stateHash(toJson(values->before));
    records += recordOf({Entry::Kind::Step, step.id(), step.parent(), hash_, step.label()}, body);
    hashed_ = step.id();
    hash_ = step.id() == history.at() ? presentHash : stateHash(toJson(values->after));
    since += static_cast<std::int64_t>(body.size());
  }
  if (since > leastBetweenStates) {
    const HistoryStep& last = *history.steps()[history.steps().size() - 1];
    const json state = toJson(last.values()->after);
    const std::string whole = state.dump();
    if (since > static_cast<std::int64_t>(whole.size()))
      records += recordOf({Entry::Kind::Whole, last.id(), last.parent(), stateHash(state), {}}, whole);
  }
  write(records);
}

void HistoryLog::write(const std::string& records) {
  const bool fresh = disk_.kindOf(logName) == SessionDisk::Kind::Nothing;
  const OpenFile log = fresh ? disk_.create(logName) : disk_.openToChange(logName);
  struct stat status {};
  if (::fstat(log.descriptor.get(), &status) != 0) throw Error("The history cannot be written to.");
  const off_t end = status.st_size;
  if (status.st_nlink > 1) {
    // It has another name somewhere, perhaps in a copy that shares its files: that stays as it is.
    const std::string before = readAll(log, longestLog);
    disk_.replace(logName, before + records);
    return remember(records, end);
  }
  try {
    if (::lseek(log.descriptor.get(), end, SEEK_SET) != end) throw Error("The history cannot be written to.");
    writeAll(log.descriptor.get(), records, logName);
    syncOrThrow(log.descriptor.get(), logName);
    if (fresh) disk_.syncFolder();
  } catch (...) {
    // What was half written does not count; it is only left where even that cannot be cut off.
    (void)!::ftruncate(log.descriptor.get(), end);
    throw;
  }
  remember(records, end);
}

void HistoryLog::remember(const std::string& records, std::int64_t end) {
  file_ = std::make_shared<const File>(File{disk_.open(logName)});
  const std::string written = readStretch(file_->open, end, static_cast<std::int64_t>(records.size()));
  if (written != records) throw Error("The history on disk is not what was written to it.");
  for (std::size_t at = records.find(recordStart); at != std::string::npos;) {
    auto entry = entryAt(records, at);
    if (!entry) throw Error("A step of the history could not be written.");
    at = records.find(recordStart, static_cast<std::size_t>(endOf(*entry)));
    entry->record += end;
    entry->body += end;
    take(std::move(*entry));
  }
  size_ = end + static_cast<std::int64_t>(records.size());
}

void HistoryLog::compact(const History& history) {
  if (harmed_ || empty()) return;
  const auto bytesOf = [](const Entry& entry) { return endOf(entry) - entry.record; };
  std::int64_t kept = 0;
  std::vector<Entry> entries = leadingTo(history.tip(), history.root());
  for (const Entry& entry : entries) kept += bytesOf(entry);
  if (size_ < leastToCompact || kept * 2 > size_) return;
  std::string records = firstLine;
  for (auto entry = entries.rbegin(); entry != entries.rend(); ++entry)
    records += recordOf(*entry, bodyOf(*entry));
  const json present = toJson(history.now());
  records += recordOf({Entry::Kind::Whole, history.at(), 0, stateHash(present), {}}, present.dump());
  disk_.replace(logName, records);
  steps_.clear();
  states_.clear();
  sinceState_ = 0;
  file_ = std::make_shared<const File>(File{disk_.open(logName)});
  scan();
}

}  // namespace yewdrift
