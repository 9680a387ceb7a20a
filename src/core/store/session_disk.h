// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/store/open_file.h"

namespace yewdrift {

/// The only way to a session's disk. It holds the folder itself, not its name, and everything in it is
/// reached from there by relative names ("audio/viola-001.wav"): never through a link, never out of the
/// folder, regular files only. What is made is made exclusively. Copies share the folder. Any thread.
class SessionDisk {
 public:
  /// Throws Error where the folder is not there.
  explicit SessionDisk(const std::filesystem::path& folder);

  /// As the folder is called, for sentences and for what is handed to other programs.
  [[nodiscard]] const std::filesystem::path& path() const { return folder_->path; }

  // -- reading
  /// Opens a file to be read; throws Error with a sentence where it is missing, a link, or no regular file.
  [[nodiscard]] OpenFile open(const std::string& name) const;
  [[nodiscard]] std::string read(const std::string& name, std::uintmax_t limit) const;
  enum class Kind { Nothing, File, Folder, Other };
  [[nodiscard]] Kind kindOf(const std::string& name) const;
  [[nodiscard]] bool has(const std::string& name) const { return kindOf(name) != Kind::Nothing; }
  /// What lies in a folder of it, or in the folder itself, in order of name; nothing where there is none.
  [[nodiscard]] std::vector<std::string> list(const std::string& folder = {}) const;

  // -- writing; all throw Error where the disk does not take it
  /// Opens a file of ours to be changed.
  [[nodiscard]] OpenFile openToChange(const std::string& name) const;
  /// A new file, and the folder it lies in; throws where something has that name.
  [[nodiscard]] OpenFile create(const std::string& name) const;
  /// A new file with the first name "<folder>/<stem>-NNN.<extension>" that nothing has; letters, digits and
  /// "-", "_" of the stem stay as they are.
  struct Named {
    std::string name;
    OpenFile file;
  };
  [[nodiscard]] Named createNumbered(const std::string& folder, const std::string& stem,
                                     const std::string& extension) const;
  /// A file with no name, which goes with the program.
  [[nodiscard]] Descriptor createNameless(const std::string& folder) const;
  /// Writes a whole file in place of what is there, at once or not at all. Synced: whatever happens, one of
  /// the two is there, and where this throws it is the former one.
  enum class Safety { Synced, Cache };
  void replace(const std::string& name, const std::string& content, Safety safety = Safety::Synced) const;
  /// Never takes another file's place: false where the new name is taken.
  bool rename(const std::string& from, const std::string& to) const;
  /// Quiet where it is missing or cannot be removed. Never a folder.
  void remove(const std::string& name) const;
  void makeFolder(const std::string& name) const;
  /// Waits until the disk has a file, or the names in a folder.
  void sync(const std::string& name) const;
  void syncFolder(const std::string& folder = {}) const;
  /// Room for ordinary users, in bytes.
  [[nodiscard]] std::uintmax_t room() const;

  /// A name that nobody has, for what is not yet what it will be; removeStrays() knows such names.
  [[nodiscard]] static std::string temporaryName(const std::string& name);
  /// Removes what killed programs left under temporary names. Only for who has the lock.
  void removeStrays() const;

  /// Where in this folder that place lies, whatever leads there; none where it lies outside.
  [[nodiscard]] std::optional<std::filesystem::path> within(const std::filesystem::path& place) const;

  enum class Locked { Yes, Elsewhere, Impossible };
  /// Takes the session for writing until the last copy of this is gone.
  [[nodiscard]] Locked lock() const;

 private:
  struct Folder {
    std::filesystem::path path;
    Descriptor descriptor;
    Descriptor lock;
  };
  /// The folder a name lies in, and the last part of the name.
  struct Place {
    Descriptor folder;
    std::string leaf;
  };
  enum class Missing { Refuse, Make };
  [[nodiscard]] Place placeOf(const std::string& name, Missing missing = Missing::Refuse) const;
  [[nodiscard]] Descriptor openFolder(const std::string& name, Missing missing) const;
  [[nodiscard]] OpenFile openAs(const std::string& name, int flags) const;

  std::shared_ptr<Folder> folder_;
};

/// A new file of a session that has no name of its own until all of it is there: one that is not kept leaves
/// nothing, also where the program is killed.
class PendingFile {
 public:
  /// It will have the first free name "<folder>/<stem>-NNN.<extension>".
  PendingFile(const SessionDisk& disk, const std::string& folder, const std::string& stem,
              const std::string& extension = "wav");
  ~PendingFile();
  PendingFile(const PendingFile&) = delete;
  PendingFile& operator=(const PendingFile&) = delete;

  /// To be written through; may be taken once.
  [[nodiscard]] OpenFile take() { return std::move(file_); }
  /// What it will be called, if nobody else takes that name meanwhile.
  [[nodiscard]] std::string expectedName() const;
  /// What it is called until it is kept.
  [[nodiscard]] const std::string& workingName() const { return name_; }
  /// Syncs it and gives it its name, which is returned.
  std::string keep();

 private:
  SessionDisk disk_;
  std::string folder_;
  std::string stem_;
  std::string extension_;
  std::string name_;  // empty once it is kept
  OpenFile file_;
};

}  // namespace yewdrift
