// A list of at most N items that lives where it is declared: no allocation, trivially copyable.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

namespace jugend {

template <class T, std::size_t N>
class InlineList {
 public:
  /// Adds `item`; when the list is full it is dropped and false comes back.
  constexpr bool push_back(const T& item) {
    if (size_ == N) return false;
    items_[size_++] = item;
    return true;
  }
  constexpr void clear() { size_ = 0; }
  /// Leaves the first `count`, of those that there are.
  constexpr void shrink(std::size_t count) { size_ = count < size_ ? static_cast<std::uint32_t>(count) : size_; }
  constexpr std::size_t size() const { return size_; }
  constexpr bool empty() const { return size_ == 0; }
  constexpr T& operator[](std::size_t i) { return items_[i]; }
  constexpr const T& operator[](std::size_t i) const { return items_[i]; }
  constexpr T* begin() { return items_.data(); }
  constexpr T* end() { return items_.data() + size_; }
  constexpr const T* begin() const { return items_.data(); }
  constexpr const T* end() const { return items_.data() + size_; }

 private:
  std::array<T, N> items_{};
  std::uint32_t size_ = 0;
};

}  // namespace jugend
