// A thing that several hold and that goes with the last of them: a std::shared_ptr for headers that many files read,
// since <memory> is 20,000 lines.
#pragma once

#include <concepts>
#include <cstddef>
#include <utility>

namespace jugend {

namespace shared_detail {
struct Holder {
  long holders = 1;
  virtual ~Holder() = default;
};
template <class Value>
struct HolderOf final : Holder {
  template <class... From>
  explicit HolderOf(From&&... from) : value(std::forward<From>(from)...) {}
  Value value;
};
/// Any thread may hold and let go.
void retain(Holder* holder) noexcept;
void let_go(Holder* holder) noexcept;
}  // namespace shared_detail

template <class T>
class Shared {
 public:
  Shared() = default;
  Shared(std::nullptr_t) {}
  /// Makes one, of the type U.
  template <class U = T, class... From>
  static Shared make(From&&... from) {
    auto* holder = new shared_detail::HolderOf<U>(std::forward<From>(from)...);
    return Shared(&holder->value, holder);
  }
  /// What another owner holds, a std::shared_ptr or std::unique_ptr: that is kept.
  template <class Owner>
  requires requires(const Owner& owner) {
    { owner.get() } -> std::convertible_to<T*>;
  }
  Shared(Owner owner) {
    if (owner.get() == nullptr) return;
    auto* holder = new shared_detail::HolderOf<Owner>(std::move(owner));
    thing_ = holder->value.get(), holder_ = holder;
  }
  template <class U>
  requires std::convertible_to<U*, T*> Shared(const Shared<U>& other) : Shared(other.thing_, other.holder_) {
    if (holder_ != nullptr) shared_detail::retain(holder_);
  }
  Shared(const Shared& other) : Shared(other.thing_, other.holder_) {
    if (holder_ != nullptr) shared_detail::retain(holder_);
  }
  Shared(Shared&& other) noexcept
      : Shared(std::exchange(other.thing_, nullptr), std::exchange(other.holder_, nullptr)) {}
  Shared& operator=(Shared other) noexcept {
    std::swap(thing_, other.thing_), std::swap(holder_, other.holder_);
    return *this;
  }
  ~Shared() {
    if (holder_ != nullptr) shared_detail::let_go(holder_);
  }

  T* get() const { return thing_; }
  T& operator*() const { return *thing_; }
  T* operator->() const { return thing_; }
  explicit operator bool() const { return thing_ != nullptr; }
  /// The same thing, not one that is alike.
  bool operator==(const Shared& other) const { return thing_ == other.thing_; }

 private:
  template <class U>
  friend class Shared;
  Shared(T* thing, shared_detail::Holder* holder) : thing_(thing), holder_(holder) {}
  T* thing_ = nullptr;
  shared_detail::Holder* holder_ = nullptr;
};

}  // namespace jugend
