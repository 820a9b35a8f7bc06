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

/// A fault as one line: "file:line:column: key: found …; allowed: …; nearest: …".
std::string message_of(const Fault& fault);

#if defined(__GNUC__)
#define JUGEND_SHOWN __attribute__((visibility("default")))  // one type to a host and a shared library alike
#else
#define JUGEND_SHOWN
#endif

/// Thrown at the edges only (files, options, construction), never from a tick. what() is message_of(fault()).
class JUGEND_SHOWN InputError : public std::runtime_error {
 public:
  explicit InputError(Fault fault);
  const Fault& fault() const { return fault_; }

 private:
  Fault fault_;
};

/// Throws it as an InputError. Where the library was built without exceptions it goes to the program's handler; where
/// that returns, or there is none, its message is written to stderr and the program ends.
[[noreturn]] void fail(Fault fault);
/// What a program without exceptions does about bad input; nullptr: nothing of its own. Set it before threads run.
void set_fault_handler(void (*handler)(const Fault& fault));
/// The same for memory that the system does not give: throws std::bad_alloc, or ends the program.
[[noreturn]] void fail_for_memory();

/// While one lives, what fails on its thread goes through it before it is thrown, the innermost first: it puts in
/// words what only the caller knows, as in  const Amend named([&](Fault& fault) { fault.key = key; });
class AmendBase {
 public:
  AmendBase(const AmendBase&) = delete;
  AmendBase& operator=(const AmendBase&) = delete;

 protected:
  explicit AmendBase(void (*amend)(const AmendBase&, Fault&));
  ~AmendBase();

 private:
  friend void fail(Fault fault);
  void (*amend_)(const AmendBase&, Fault&);
  const AmendBase* outer_;
};
template <class F>
class Amend : private AmendBase {
 public:
  explicit Amend(F amend)
      : AmendBase([](const AmendBase& self, Fault& fault) { static_cast<const Amend&>(self).with_(fault); }),
        with_(amend) {}

 private:
  F with_;
};

/// The name in `names` that needs the fewest edits to become `name` (Damerau-Levenshtein, adjacent
/// swaps count once); empty where every name is further than half its length away.
std::string nearest_name(std::string_view name, std::span<const std::string> names);

}  // namespace jugend
