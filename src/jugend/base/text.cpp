#include <array>
#include <charconv>
#include <cmath>
#include <jugend/base/text.hpp>

namespace jugend {
namespace {

using Letters = std::array<char, 32>;

std::string shortest(double value) {
  Letters letters;
  // Neither 1e+05 for a hundred thousand, nor twenty zeros.
  const double size = std::abs(value);
  const bool plain = size == 0 || (size >= 1e-4 && size < 1e16);
  const auto end = std::to_chars(letters.data(), letters.data() + letters.size(), value,
                                 plain ? std::chars_format::fixed : std::chars_format::scientific);
  return {letters.data(), end.ptr};
}

}  // namespace

std::string as_text(double value, int digits) {
  Letters letters;
  const auto end =
      std::to_chars(letters.data(), letters.data() + letters.size(), value, std::chars_format::general, digits);
  return {letters.data(), end.ptr};
}

TextPart::TextPart(double number) : text_(shortest(number)) {}

std::string text_detail::filled(std::string_view sentence, std::initializer_list<TextPart> parts) {
  std::string text;
  for (const TextPart& part : parts) {
    const std::size_t gap = sentence.find("{}");
    text.append(sentence.substr(0, gap)).append(part.text());
    sentence.remove_prefix(gap + 2);
  }
  return text.append(sentence);
}

}  // namespace jugend
