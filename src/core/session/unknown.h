// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <string>

namespace yewdrift {

/// Members of a document that this version knows nothing of, as the text of a JSON object: what a newer
/// version wrote there is kept as it is. Mostly nothing, and then as small as a pointer.
class Unknown {
 public:
  Unknown() = default;
  explicit Unknown(std::string object)
      : text_(object.empty() ? nullptr : std::make_shared<const std::string>(std::move(object))) {}

  [[nodiscard]] bool empty() const { return !text_; }
  [[nodiscard]] std::string text() const { return text_ ? *text_ : std::string(); }
  bool operator==(const Unknown& other) const { return text_ == other.text_ || text() == other.text(); }

 private:
  std::shared_ptr<const std::string> text_;
};

}  // namespace yewdrift
