// The one error for bad input: where it stands, what was found, what is allowed.
#pragma once

#include <cstdint>
#include <span>
#include <stdexcept>
#include <string>
#include <string_view>

namespace jugend {

/// A place in a file; line and column count from 1, 0 means the file as a whole.
struct Place {
  std::string file;
  std::uint32_t line = 0;
  std::uint32_t column = 0;
};

/// What is wrong with an input. Empty parts are left out of the message.
struct Fault {
  Place place;          ///< file:line:column, or "--set" and the like for an option
  std::string key;      ///< the key or option concerned
  std::string found;    ///< what stands there
  std::string allowed;  ///< what may stand there
  std::string nearest;  ///< the right name that is most like the one found
};

/// Thrown at the edges only (files, options, construction), never from a tick.
/// what() reads "file:line:column: key: found …; allowed: …; nearest: …".
class InputError : public std::runtime_error {
 public:
  explicit InputError(Fault fault);
  const Fault& fault() const { return fault_; }

 private:
  Fault fault_;
};

/// The name in `names` that needs the fewest edits to become `name` (Damerau-Levenshtein, adjacent
/// swaps count once); empty where every name is further than half its length away.
std::string nearest_name(std::string_view name, std::span<const std::string> names);

}  // namespace jugend
