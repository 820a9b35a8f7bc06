// Whether a sanitizer watches the library: everything takes some ten times as long then, so tests take fewer scenes.
#pragma once

// There only where the address sanitizer is linked in. Asked at run time, so that tests are compiled once for both.
extern "C" void __asan_init() __attribute__((weak));

namespace jugend::testing {

inline bool watched() { return __asan_init != nullptr; }
template <class Number>
Number unless_watched(Number all, Number fewer) {
  return watched() ? fewer : all;
}
/// So many scenes; a twelfth of them where watched.
inline int scenes_of(int count) { return unless_watched(count, (count + 11) / 12); }

}  // namespace jugend::testing
