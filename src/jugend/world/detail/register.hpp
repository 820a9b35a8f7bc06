// Things that many bodies have in common, each kept once under a number and gone with the last that holds it.
#pragma once

#include <cstdint>
#include <functional>
#include <jugend/shape/shape.hpp>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

namespace jugend::world_state {

std::size_t hash_of(const Shape& shape);
inline std::size_t hash_of(const std::string& name) { return std::hash<std::string>{}(name); }

/// Things that are equal have the same number.
template <class T>
class Register {
 public:
  const T& operator[](std::uint32_t number) const { return things_[number]; }
  const std::vector<T>& all() const { return things_; }  // with empty ones where none is held
  /// Changes with what it holds, and comes again only with the same.
  std::uint64_t version() const { return version_; }

  std::uint32_t retain(const T& thing) {
    const std::size_t hash = hash_of(thing);
    const auto [first, last] = numbers_.equal_range(hash);
    for (auto at = first; at != last; ++at) {
      if (things_[at->second] == thing) return ++holders_[at->second], at->second;
    }
    if (free_.empty()) {
      free_.push_back(static_cast<std::uint32_t>(things_.size()));
      things_.emplace_back(), holders_.push_back(0);
    }
    const std::uint32_t number = free_.back();
    free_.pop_back();
    things_[number] = thing, holders_[number] = 1;
    if (spare_.empty()) {
      numbers_.emplace(hash, number);
    } else {
      spare_.back().key() = hash, spare_.back().mapped() = number;
      numbers_.insert(std::move(spare_.back()));
      spare_.pop_back();
    }
    version_ = ++versions_;
    return number;
  }

  void let_go(std::uint32_t number) {
    if (--holders_[number] > 0) return;
    const auto [first, last] = numbers_.equal_range(hash_of(things_[number]));
    for (auto at = first; at != last; ++at) {
      if (at->second != number) continue;
      spare_.push_back(numbers_.extract(at));
      break;
    }
    things_[number] = T{};
    free_.push_back(number);
    version_ = ++versions_;
  }

  /// As it was with `things` at `version`; `each_held(retain)` calls retain(number) for each holder.
  template <class EachHeld>
  void restore(const std::vector<T>& things, std::uint64_t version, EachHeld&& each_held) {
    const bool same = version == version_;
    if (!same) things_ = things;
    version_ = version;
    holders_.assign(things_.size(), 0);
    each_held([&](std::uint32_t number) { ++holders_[number]; });
    if (same) return;
    numbers_.clear(), free_.clear();
    for (std::uint32_t number = 0; number < things_.size(); ++number) {
      if (holders_[number] > 0) {
        numbers_.emplace(hash_of(things_[number]), number);
      } else {
        free_.push_back(number);
      }
    }
  }

 private:
  std::vector<T> things_;
  std::vector<std::uint32_t> holders_, free_;
  using Numbers = std::unordered_multimap<std::size_t, std::uint32_t>;
  Numbers numbers_;
  std::vector<Numbers::node_type> spare_;  // so that what comes and goes needs no new memory
  std::uint64_t version_ = 0, versions_ = 0;
};

}  // namespace jugend::world_state
