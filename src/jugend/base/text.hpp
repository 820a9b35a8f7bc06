// Sentences with names and numbers in them, for errors: no formatting library, so that a game needs none.
#pragma once

#include <concepts>
#include <initializer_list>
#include <string>
#include <string_view>

namespace jugend {

/// A number with at most so many digits, as printf's %g writes it in the "C" locale: 12 hide what rounding leaves.
std::string as_text(double value, int digits = 12);

/// What may stand in a sentence: a text as it is, a character, a whole number, any other number with as few digits as
/// read back to the same bits.
class TextPart {
 public:
  TextPart(std::string_view text) : text_(text) {}
  TextPart(const std::string& text) : text_(text) {}
  TextPart(const char* text) : text_(text) {}
  TextPart(char letter) : text_(1, letter) {}
  TextPart(double number);
  template <std::integral T>
  requires(!std::same_as<T, bool>) TextPart(T number) : text_(std::to_string(number)) {}
  const std::string& text() const { return text_; }

 private:
  std::string text_;
};

/// A sentence with {} where each part goes; another number of {} than of parts does not compile.
template <std::size_t parts>
class Pattern {
 public:
  consteval Pattern(const char* sentence) : sentence_(sentence) {
    std::size_t gaps = 0;
    for (const char* c = sentence; *c != 0; ++c) gaps += c[0] == '{' && c[1] == '}' ? 1 : 0;
    if (gaps != parts) as_many_gaps_as_parts();
  }
  std::string_view sentence() const { return sentence_; }

 private:
  static void as_many_gaps_as_parts() {}  // not constexpr: to reach it is the error
  std::string_view sentence_;
};

namespace text_detail {
std::string filled(std::string_view sentence, std::initializer_list<TextPart> parts);
}

/// The sentence with its parts in place: filled("{} of {} wheels", 3, 4).
template <class... T>
std::string filled(Pattern<sizeof...(T)> pattern, const T&... parts) {
  return text_detail::filled(pattern.sentence(), {TextPart(parts)...});
}

}  // namespace jugend
