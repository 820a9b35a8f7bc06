// What a program may watch of its ticks: how long each part takes, and what happened, in words.
#pragma once

namespace jugend {

/// Each function may be missing, and costs nothing then. They are called on the thread that ticks.
struct Watch {
  void* host = nullptr;  ///< handed back to all
  /// A part of a tick begins and ends: "contacts". Parts lie within one another; the names last for ever.
  void (*begin)(void* host, const char* part) = nullptr;
  void (*end)(void* host, const char* part) = nullptr;
  /// A sentence, which lasts until it returns: "courier left: its body is no longer in the world".
  void (*tell)(void* host, const char* sentence) = nullptr;
};

/// A part of a tick, as long as it lives.
class Watched {
 public:
  Watched(const Watch& watch, const char* part) : watch_(watch), part_(part) {
    if (watch_.begin != nullptr) watch_.begin(watch_.host, part_);
  }
  ~Watched() {
    if (watch_.end != nullptr) watch_.end(watch_.host, part_);
  }
  Watched(const Watched&) = delete;
  Watched& operator=(const Watched&) = delete;

 private:
  const Watch& watch_;
  const char* part_;
};

}  // namespace jugend
