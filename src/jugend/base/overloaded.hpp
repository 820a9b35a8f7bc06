// Several functions as one, for std::visit.
#pragma once

namespace jugend {

template <class... F>
struct Overloaded : F... {
  using F::operator()...;
};
template <class... F>
Overloaded(F...) -> Overloaded<F...>;  // clang 14 does not deduce this of an aggregate

}  // namespace jugend
