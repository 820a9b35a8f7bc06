#include <jugend/base/bytes.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>

namespace jugend {
namespace {

constexpr std::string_view mark = "jugend-bytes-1";

std::uint64_t check_sum(std::span<const std::byte> bytes) {
  StateHash hash;
  hash.add(std::uint64_t{bytes.size()});
  ByteReader in(bytes);
  while (in.left() >= 8) hash.add(in.word(8));
  if (in.left() > 0) hash.add(in.word(in.left()));
  return hash.value();
}

[[noreturn]] void refuse(std::string_view what, std::string found, std::string wanted) {
  fail({{}, std::string(what), std::move(found), std::move(wanted), {}});
}

}  // namespace

void ByteWriter::word(std::uint64_t value, std::size_t bytes) {
  for (std::size_t i = 0; i < bytes; ++i) bytes_.push_back(static_cast<std::byte>(value >> (8 * i) & 0xff));
}
void ByteWriter::all_of(std::span<const std::byte> bytes) { bytes_.insert(bytes_.end(), bytes.begin(), bytes.end()); }

std::uint64_t ByteReader::word(std::size_t bytes) {
  std::uint64_t value = 0;
  const std::span<const std::byte> from = take(bytes);
  for (std::size_t i = 0; i < from.size(); ++i) value |= static_cast<std::uint64_t>(from[i]) << (8 * i);
  return value;
}
std::span<const std::byte> ByteReader::take(std::size_t count) {
  need(count <= bytes_.size());
  if (!ok_) return {};
  const std::span<const std::byte> taken = bytes_.first(count);
  bytes_ = bytes_.subspan(count);
  return taken;
}

std::vector<std::byte> sealed(std::string_view what, std::uint64_t layout, std::span<const std::byte> content) {
  ByteWriter out;
  pass(out, mark), pass(out, what), pass(out, layout);
  out.word(content.size(), 8), out.all_of(content);
  out.word(check_sum(out.bytes()), 8);
  return out.bytes();
}

std::span<const std::byte> opened(std::string_view what, std::uint64_t layout, std::span<const std::byte> bytes) {
  ByteReader in(bytes);
  std::string begins, holds;
  std::uint64_t laid_out = 0;
  pass(in, begins);
  if (!in.ok() || begins != mark)
    refuse(what, filled("{} bytes that do not begin as such", bytes.size()), "bytes that this library wrote");
  pass(in, holds), pass(in, laid_out);
  const std::span<const std::byte> content = in.take(in.word(8));
  if (!in.ok() || in.left() != 8)
    refuse(what, filled("{} bytes, cut short or with more behind", bytes.size()), "all that was written");
  if (in.word(8) != check_sum(bytes.first(bytes.size() - 8)))
    refuse(what, "bytes whose check sum is not theirs", "bytes as they were written");
  if (holds != what) refuse(what, filled("bytes of a {}", holds), filled("those of a {}", what));
  if (laid_out != layout)
    refuse(what, "bytes of another version of the library, or of other kinds",
           "those of a program built from the same sources");
  return content;
}

}  // namespace jugend
