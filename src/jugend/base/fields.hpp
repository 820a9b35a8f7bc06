// What a plain state is made of, listed once: hashes, snapshots, files and tests go through the list.
//
//   struct Light {
//     double angle = 0;
//     bool on = false;
//     static constexpr auto fields() { return field_list(Field{"angle", &Light::angle}, Field{"on", &Light::on}); }
//   };
//   static_assert(all_fields_listed<Light>);   // a field that is added and not listed does not compile
#pragma once

#include <array>
#include <concepts>
#include <jugend/base/hash.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/vec.hpp>
#include <string_view>
#include <type_traits>
#include <utility>

namespace jugend {

/// A field's name, and where it lies.
template <class Owner, class Member>
struct Field {
  const char* name;
  Member Owner::*at;
};
template <class Owner, class Member>
Field(const char*, Member Owner::*) -> Field<Owner, Member>;  // older clang deduces none for an aggregate

/// Hands all fields to whoever asks: list([](const auto&... field) { ... }). A tuple of them is
/// dear to compile, in each file that reads these headers.
template <class... Fields>
constexpr auto field_list(Fields... fields) {
  return [=](auto&& visit) { return visit(fields...); };
}

template <class T>
concept Described = requires {
  T::fields();
};

namespace field_detail {

struct Anything {
  template <class T>
  constexpr operator T() const;
};

template <class T, class Indices>
inline constexpr bool takes = false;
template <class T, std::size_t... I>
inline constexpr bool takes<T, std::index_sequence<I...>> = requires {
  T{(static_cast<void>(I), Anything{})...};
};

template <class T>
constexpr std::size_t listed() {
  return T::fields()([](const auto&... field) { return sizeof...(field); });
}

}  // namespace field_detail

/// Does the list of an aggregate's fields have as many as the aggregate itself? It can be made of so many values, and
/// of no more.
template <Described T>
inline constexpr bool all_fields_listed =
    field_detail::takes<T, std::make_index_sequence<field_detail::listed<T>()>> &&
    !field_detail::takes<T, std::make_index_sequence<field_detail::listed<T>() + 1>>;

/// visit(name, member) for each field, in order.
template <class T, class Visit>
constexpr void for_each_field(T& owner, Visit&& visit) {
  std::remove_const_t<T>::fields()([&](const auto&... field) { (visit(field.name, owner.*(field.at)), ...); });
}

/// All that a value is made of goes into the hash, fields within fields too.
template <class T>
void add_to(StateHash& hash, const T& value) {
  if constexpr (Described<T>) {
    for_each_field(value, [&](const char*, const auto& member) { add_to(hash, member); });
  } else if constexpr (std::is_floating_point_v<T>) {
    hash.add(static_cast<double>(value));
  } else if constexpr (std::is_enum_v<T> || std::is_integral_v<T>) {
    hash.add(static_cast<std::uint64_t>(value));
  } else if constexpr (std::is_convertible_v<T, std::string_view>) {
    for (const char c : std::string_view(value)) hash.add(static_cast<std::uint64_t>(c));
  } else if constexpr (requires { hash.add(value); }) {
    hash.add(value);
  } else if constexpr (requires { value.position, value.orientation; }) {
    hash.add(value.position), hash.add(value.orientation);
  } else {
    for (const auto& item : value) add_to(hash, item);  // an array or list of them
  }
}

/// The name of the first field that has a number which is not finite; nullptr: there is none.
template <class T>
const char* not_finite_in(const T& value) {
  const char* first = nullptr;
  for_each_field(value, [&](const char* name, const auto& member) {
    using Member = std::remove_cvref_t<decltype(member)>;
    if (first != nullptr) return;
    if constexpr (Described<Member>)
      first = not_finite_in(member);
    else if constexpr (std::is_floating_point_v<Member> || std::is_same_v<Member, Vec3>)
      first = is_finite(member) ? nullptr : name;
  });
  return first;
}

/// Puts those of `other` in the place of such numbers; of a vector all three.
template <class T>
void make_finite(T& value, const T& other = {}) {
  T::fields()([&](const auto&... field) {
    const auto mend = [](auto& member, const auto& by) {
      using Member = std::remove_cvref_t<decltype(member)>;
      if constexpr (Described<Member>)
        make_finite(member, by);
      else if constexpr (std::is_floating_point_v<Member> || std::is_same_v<Member, Vec3>)
        member = is_finite(member) ? member : by;
    };
    (mend(value.*(field.at), other.*(field.at)), ...);
  });
}
/// A copy without such numbers.
template <class T>
T made_finite(T value, const T& other = {}) {
  make_finite(value, other);
  return value;
}

}  // namespace jugend
