// Tunings as bytes: their numbers in the order of their list.
#include <cmath>
#include <jugend/base/bytes.hpp>
#include <jugend/base/tunable.hpp>

namespace jugend {
namespace {

/// `in` is only read where the archive writes.
template <class Archive>
void pass_tuning(Archive& archive, const Tunables& list, void* in) {
  for (const NumberList& numbers : list.lists()) pass(archive, numbers.at(in));
  for (const PointList& curve : list.curves()) pass(archive, curve.at(in));
  for (const TunableGroup& group : list.groups()) {
    std::uint64_t count = group.count(in);
    pass(archive, count);
    if constexpr (Archive::reads) {
      archive.need(count >= group.least && count <= group.most);
      if (!archive.ok()) return;
      group.resize(in, count);
    }
    for (std::size_t i = 0; i < count; ++i) pass_tuning(archive, *group.parts, group.part(in, i));
  }
  for (const Tunable& t : list) {
    double value = t.get(in);
    bool stated = t.stated(in);
    pass(archive, value), pass(archive, stated);
    if constexpr (Archive::reads) {
      // What is cast to a whole number or a choice must be one.
      archive.need(t.type == TunableType::number || (std::floor(value) == value && value >= t.low && value <= t.high));
      if (!archive.ok()) return;
      t.set(in, value);
      if (stated && t.state_form != nullptr) t.state_form(in, t.form);
    }
  }
}

void add_keys(StateHash& hash, const Tunables& list) {
  for (const Tunable& t : list) add_to(hash, t.key), add_to(hash, t.unit);
  for (const NumberList& numbers : list.lists()) add_to(hash, numbers.key);
  for (const PointList& curve : list.curves()) add_to(hash, curve.key);
  for (const TunableGroup& group : list.groups()) add_to(hash, group.key), add_keys(hash, *group.parts);
}

}  // namespace

void write_tuning(ByteWriter& to, const Tunables& list, const void* tuning) {
  pass_tuning(to, list, const_cast<void*>(tuning));
}

void read_tuning(ByteReader& from, const Tunables& list, void* tuning) { pass_tuning(from, list, tuning); }

std::uint64_t layout_of(const Tunables& list) {
  StateHash hash;
  add_keys(hash, list);
  return hash.value();
}

}  // namespace jugend
