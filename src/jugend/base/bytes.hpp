// Plain states as bytes and back, the same on every machine: numbers with their low byte first, one after another, in
// the order of their fields (base/fields.hpp).
//
//   ByteWriter out;
//   pass(out, state);              // ... out.bytes()
//   ByteReader in(bytes);
//   pass(in, state);               // in.ok() tells whether the bytes were such a state
#pragma once

#include <bit>
#include <cstddef>
#include <cstdint>
#include <jugend/base/fields.hpp>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

namespace jugend {

class ByteWriter {
 public:
  static constexpr bool reads = false;
  /// The low `bytes` bytes of `value`, the lowest first.
  void word(std::uint64_t value, std::size_t bytes);
  void all_of(std::span<const std::byte> bytes);
  const std::vector<std::byte>& bytes() const { return bytes_; }

 private:
  std::vector<std::byte> bytes_;
};

/// Once something is not what it should be, all that follows reads as 0 and ok() stays false.
class ByteReader {
 public:
  static constexpr bool reads = true;
  explicit ByteReader(std::span<const std::byte> bytes) : bytes_(bytes) {}
  bool ok() const { return ok_; }
  void fail() { ok_ = false, bytes_ = {}; }
  void need(bool holds) {
    if (!holds) fail();
  }
  std::size_t left() const { return bytes_.size(); }
  std::uint64_t word(std::size_t bytes);
  /// The next `count` bytes; none where there are fewer.
  std::span<const std::byte> take(std::size_t count);

 private:
  std::span<const std::byte> bytes_;
  bool ok_ = true;
};

namespace bytes_detail {
template <class T>
concept Text = std::is_convertible_v<const T&, std::string_view> && std::is_constructible_v<T, std::string_view>;
template <class T>
concept Growing = requires(T list) {
  list.clear();
  list.push_back(list[0]);
};
}  // namespace bytes_detail

/// Writes `value`, or reads it.
template <class Archive, class T>
void pass(Archive& archive, T& value) {
  using Plain = std::remove_const_t<T>;
  const auto number = [&](std::uint64_t bits, std::size_t bytes) {
    if constexpr (Archive::reads)
      return archive.word(bytes);
    else
      return archive.word(bits, bytes), bits;
  };
  if constexpr (std::is_same_v<Plain, bool>) {
    const std::uint64_t bits = number(value ? 1 : 0, 1);
    if constexpr (Archive::reads) archive.need(bits <= 1), value = bits == 1;
  } else if constexpr (std::is_floating_point_v<Plain>) {
    const std::uint64_t bits = number(std::bit_cast<std::uint64_t>(static_cast<double>(value)), 8);
    if constexpr (Archive::reads) value = static_cast<Plain>(std::bit_cast<double>(bits));
  } else if constexpr (std::is_enum_v<Plain> || std::is_integral_v<Plain>) {
    const std::uint64_t bits = number(static_cast<std::uint64_t>(value), sizeof(Plain));
    if constexpr (Archive::reads) value = static_cast<Plain>(bits);
  } else if constexpr (std::is_same_v<Plain, Vec3>) {
    pass(archive, value.x), pass(archive, value.y), pass(archive, value.z);
  } else if constexpr (std::is_same_v<Plain, Quat>) {
    pass(archive, value.w), pass(archive, value.x), pass(archive, value.y), pass(archive, value.z);
  } else if constexpr (std::is_same_v<Plain, Pose>) {
    pass(archive, value.position), pass(archive, value.orientation);
  } else if constexpr (Described<Plain>) {
    for_each_field(value, [&](const char*, auto& member) { pass(archive, member); });
  } else if constexpr (bytes_detail::Text<Plain>) {
    if constexpr (Archive::reads) {
      const auto text = archive.take(archive.word(8));
      value = Plain(std::string_view(reinterpret_cast<const char*>(text.data()), text.size()));
    } else {
      const std::string_view text = value;
      archive.word(text.size(), 8), archive.all_of(std::as_bytes(std::span(text)));
    }
  } else if constexpr (std::is_same_v<Plain, std::vector<std::byte>>) {
    const std::uint64_t count = number(value.size(), 8);
    if constexpr (Archive::reads) {
      const auto bytes = archive.take(count);
      value.assign(bytes.begin(), bytes.end());
    } else {
      archive.all_of(value);
    }
  } else if constexpr (bytes_detail::Growing<Plain>) {
    std::uint64_t count = number(static_cast<std::uint64_t>(value.size()), 8);
    if constexpr (Archive::reads) {
      archive.need(count <= archive.left());  // each takes a byte at least
      value.clear();
      for (; archive.ok() && count > 0; --count) {
        std::remove_cvref_t<decltype(value[0])> item{};
        pass(archive, item);
        const std::size_t before = value.size();
        value.push_back(item);
        archive.need(value.size() > before);
      }
    } else {
      for (const auto& item : value) pass(archive, item);
    }
  } else {
    for (auto& item : value) pass(archive, item);  // an array
  }
}

/// What `pass` writes for a T, as a number: types whose fields differ in name, order or size differ in it.
template <class T>
void add_layout(StateHash& hash) {
  if constexpr (Described<T>) {
    T::fields()([&](const auto&... field) {
      const auto add = [&]<class Owner, class Member>(const Field<Owner, Member>& of) {
        add_to(hash, std::string_view(of.name)), add_layout<Member>(hash);
      };
      (add(field), ...);
    });
  } else if constexpr (requires(T list) { list[0]; } && !bytes_detail::Text<T> && !std::is_same_v<T, Vec3>) {
    hash.add(std::uint64_t{1 + bytes_detail::Growing<T>});
    add_layout<std::remove_cvref_t<decltype(std::declval<T&>()[0])>>(hash);
  } else if constexpr (std::is_floating_point_v<T>) {
    hash.add(std::uint64_t{3});
  } else if constexpr (bytes_detail::Text<T>) {
    hash.add(std::uint64_t{4});
  } else {
    hash.add(std::uint64_t{16 + sizeof(T)});
  }
}
template <class T>
std::uint64_t layout_of() {
  StateHash hash;
  add_layout<T>(hash);
  return hash.value();
}

/// A letter round bytes: what they are, in which layout, how many, and their check sum.
std::vector<std::byte> sealed(std::string_view what, std::uint64_t layout, std::span<const std::byte> content);
/// What was put in. Throws InputError, which names `what`, for bytes that are no such letter, were cut or changed, or
/// come from a version of the library with another layout.
std::span<const std::byte> opened(std::string_view what, std::uint64_t layout, std::span<const std::byte> bytes);

}  // namespace jugend
