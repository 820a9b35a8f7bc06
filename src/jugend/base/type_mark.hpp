// Tells types apart without run-time type information, also where one of two sides is in a shared library.
//
//   TypeMark::of<Walker>() == TypeMark::of<Boat>()   // false
#pragma once

#include <cstdint>
#include <string_view>

namespace jugend {

/// A type's name tells it. Types that only one file knows share their names with others: these have a place each
/// instead. A place alone would not do: a program that hides its symbols has another than its library for the same
/// type.
class TypeMark {
 public:
  template <class T>
  static constexpr TypeMark of() {
    return {&place_of<T>, name_of<T>};
  }
  constexpr bool operator==(const TypeMark& other) const {
    return place_ == other.place_ || (name_ != 0 && name_ == other.name_);
  }

 private:
  constexpr TypeMark(const char* place, std::uint64_t name) : place_(place), name_(name) {}
  template <class T>
  static inline char place_of = 0;
  template <class T>
  static constexpr unsigned long long hash() {
#ifdef _MSC_VER
    std::string_view text = __FUNCSIG__;
    text = text.substr(text.find("hash<"), text.rfind("(void)") - text.find("hash<"));
#else
    std::string_view text = __PRETTY_FUNCTION__;
    text = text.substr(text.find("T = "));
#endif
    // In brackets: what lies in a function, or in a namespace without a name.
    if (text.find_first_of("({`") != text.npos) return 0;
    std::uint64_t value = 0xcbf29ce484222325;  // FNV-1a
    for (const char c : text) value = (value ^ static_cast<unsigned char>(c)) * 0x100000001b3;
    return value;
  }
  template <class T>
  static constexpr std::uint64_t name_of = hash<T>();

  const char* place_;
  std::uint64_t name_;
};

}  // namespace jugend
