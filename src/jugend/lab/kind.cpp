#include <fmt/format.h>
#include <fmt/ranges.h>

#include <jugend/base/error.hpp>
#include <jugend/lab/kind.hpp>
#include <jugend/lab/kinds/kinds.hpp>

namespace jugend {

ActorTuning::ActorTuning(const LabKind& kind) : kind_(&kind), data_(kind.new_tuning()) {}
ActorTuning::ActorTuning(const ActorTuning& other) : kind_(other.kind_), data_(kind_->copy(other.data())) {}
ActorTuning& ActorTuning::operator=(const ActorTuning& other) { return *this = ActorTuning(other); }
const Tunables& ActorTuning::list() const { return kind_->tunables(); }
void check(const ActorTuning& tuning) { tuning.kind().check(tuning.data()); }

const LabKind* LabKinds::find(std::string_view name) const {
  for (const auto& kind : kinds_) {
    if (kind->name() == name) return kind.get();
  }
  return nullptr;
}

const LabKind& LabKinds::get(std::string_view name, const Place& place, const std::string& key) const {
  if (const LabKind* kind = find(name)) return *kind;
  const std::vector<std::string> known = names();
  throw InputError(
      {place, key, fmt::format("'{}'", name), fmt::format("{}", fmt::join(known, ", ")), nearest_name(name, known)});
}

std::vector<std::string> LabKinds::names() const {
  std::vector<std::string> all;
  for (const auto& kind : kinds_) all.emplace_back(kind->name());
  return all;
}

const LabKinds& standard_kinds() {
  static const LabKinds kinds = [] {
    LabKinds all;
    for (const auto& make : {walker_lab_kind, forced_walker_lab_kind, roller_lab_kind, led_body_lab_kind,
                             vehicle_lab_kind, tracked_vehicle_lab_kind, boat_lab_kind, multirotor_lab_kind})
      all.add(make());
    return all;
  }();
  return kinds;
}

}  // namespace jugend
