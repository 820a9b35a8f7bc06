// The ground under wheels as rays find it: profiles along their ways, looked at closer where they bend or step.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/motion/vehicle/detail/rolled_profile.hpp>
#include <jugend/motion/vehicle/detail/wheel_way.hpp>

namespace jugend {
namespace {

// Shares of a wheel's radius.
constexpr double flat = 0.002;        // off a plane that is none
constexpr double clear = 0.02;        // above the ground at which rays look for what stands up
constexpr double short_step = 0.012;  // that ground may jump within
constexpr double hole = 0.6;          // that a wheel does not fall into by much
constexpr double stone = 0.17;        // that hides behind another
constexpr int most_stones = 40;
constexpr double steep = 1;           // slope from which a plane is not taken to go on unseen
constexpr double gentle_bend = 0.35;  // of slope, up to which ground that changes it is taken to bend
constexpr double infinite = 1e3;      // m up or down

}  // namespace

/// What feeling the ground for one wheel needs.
struct Vehicle::Tick::Feeler {
  const Tick& tick;
  const WheelContact& c;
  Vec3 mount;
  double radius, across, length;  // m: its reach along the way; down from the mount
  const Filter& others;
  BodyId stands_on{};  // what moves counts where the wheel stands on it already

  struct Felt {
    bool found = false;
    ProfilePlace place;
  };

  Ray down(double along, double from) const {
    return {mount + c.way * along + tick.up * from, -tick.up, length + from};
  }
  bool counts(BodyId body) const { return body == stands_on || tick.surroundings.facts(body).mass <= 0; }
  Felt felt(const std::optional<Hit>& hit, double along, double from) const {
    Felt f{.found = false, .place = {.x = along, .z = -infinite}};
    if (!hit) return f;
    const double rises = dot(hit->normal, tick.up);
    f.found = true, f.place.z = hit->distance > 0 ? from - hit->distance : infinite, f.place.ground = hit->body;
    if (hit->distance > 0 && rises > 0.15)
      f.place.slope = -dot(hit->normal, c.way) / rises, f.place.sideways = -dot(hit->normal, c.aside) / rises;
    return f;
  }
  /// Where a low ray met what rises.
  Felt felt_at(const std::optional<Hit>& hit, bool counted) const {
    if (!counted || dot(hit->normal, tick.up) < 0.7) return {};
    const Vec3 there = hit->point - mount;
    Hit down_on = *hit;
    down_on.distance = radius - dot(there, tick.up);
    return felt(down_on, dot(there, c.way), radius);
  }
  /// Is it a bend of the same ground rather than a step?
  static bool slope_near(const Felt& a, const Felt& b) {
    return a.found && b.found && std::abs(a.place.slope - b.place.slope) < gentle_bend;
  }
  /// What moves and is not stood on is no ground: as if the plane of `beside` went on.
  Felt feel(double along, const Felt& beside) const {
    const auto hit = tick.surroundings.cast(down(along, radius), others);
    if (!hit || counts(hit->body)) return felt(hit, along, radius);
    return beyond(beside, along);
  }
  static Felt beyond(const Felt& from, double along) {
    Felt f = from;
    f.place.z += f.place.slope * (along - f.place.x), f.place.x = along;
    return f;
  }
  bool one_plane(const Felt& a, const Felt& b, double off) const {
    return std::abs(beyond(a, b.place.x).place.z - b.place.z) <= off &&
           std::abs(beyond(b, a.place.x).place.z - a.place.z) <= off;
  }
  /// Goes on from `a`, the last place of the profile, to `b`: where both planes meet, or by halving up to an edge.
  void join(RolledProfile& profile, const Felt& a, const Felt& b, int depth) const {
    const double from = a.place.x, to = b.place.x, gap = to - from;
    const bool both = a.found && b.found, near = gap < short_step * radius || depth == 0;
    const double off = radius * (gap < 0.1 * radius ? 0.1 * gap / radius : flat);
    if ((both && one_plane(a, b, off)) || near || (!a.found && !b.found)) {
      if (both && !profile.places.empty()) profile.places[profile.places.size() - 1].joined = one_plane(a, b, off);
      if (b.found) profile.places.push_back(b.place);
      return;
    }
    double middle = 0.5 * (from + to);
    if (both && a.place.slope != b.place.slope) {
      const double meet = from + (b.place.z - a.place.z - b.place.slope * gap) / (a.place.slope - b.place.slope);
      if (meet > from + 0.02 * gap && meet < to - 0.02 * gap) {
        middle = meet;
        if (slope_near(a, b) && gap < 1.5 * radius && !profile.places.empty()) {  // low rays saw nothing else there
          profile.places[profile.places.size() - 1].joined = true;
          profile.places.push_back(beyond(a, meet).place), profile.places[profile.places.size() - 1].joined = true;
          profile.places.push_back(b.place);
          return;
        }
      }
    }
    const Felt there = feel(middle, a);
    join(profile, a, there, depth - 1);
    join(profile, there, b, depth - 1);
  }
};

/// Where a wheel stands that has come `along` m, on the plane that a ray down from its mount found at first.
Standing Vehicle::Tick::on_plane(const WheelContact& c, const Hit& hit, double along) const {
  const double rises = dot(hit.normal, up), flatter = c.radius / c.across, slope = -dot(hit.normal, c.way) / rises;
  const double scaled = slope / flatter, long_way = std::sqrt(1 + scaled * scaled);
  const double under = c.radius * scaled / long_way, touch = slope * along - hit.distance + scaled * under;
  return {along, -touch - c.radius / long_way, c.way * (under / flatter) + up * touch, hit.normal, hit.body};
}

/// Rays down from the mount along each wheel's way, in one row or, beside it, in two more under the edges of its tread.
/// A low ray goes over the ground down to where the wheel reaches at the tick's end: what stands up is met before, and
/// where the ground falls away it is met beyond. One more goes back, where a wheel may still stand on an edge behind
/// it.
void Vehicle::Tick::sense_by_rays(std::size_t rows) {
  constexpr std::size_t most_rows = 3, most_ahead = 8, most_rays = most_wheels * most_rows * (most_ahead + 1);
  struct Row {
    Vec3 off;  // m from the wheel's middle
    std::size_t first, steps, low;
    LowHits met;
    GroundForm form;
  };
  // One place for all vehicles of a thread: it stays in the cache.
  static thread_local std::array<Ray, most_rays> rays;
  static thread_local std::array<std::optional<Hit>, most_rays> hits, low_hits;
  static thread_local std::array<Row, most_wheels * most_rows> all_rows;
  static thread_local std::array<RolledProfile, most_rows> profiles;
  Filter others = v.filter;
  others.ignored = v.body_;
  const auto feeler = [&](std::size_t i, const Row& row) {
    const Place at = place(i);
    const WheelContact& c = contacts[i];
    return Feeler{*this, c, at.team.mount.get(at.lane) + row.off, c.radius, c.across, c.length + c.radius, others};
  };
  std::size_t count = 0;
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    const Place at = place(i);
    const double far = contacts[i].far, half = 0.5 * v.wheels_[i].width;
    const double offs[] = {0, half, -half};
    const std::size_t steps = std::min(static_cast<std::size_t>(far / (hole * contacts[i].radius)), most_ahead);
    for (std::size_t k = 0; k < rows; ++k) {
      Row& row = all_rows[i * rows + k];
      row.off = k == 0 ? Vec3{} : cross(at.team.heading.get(at.lane), up) * offs[k];
      row.first = count, row.steps = steps;
      const Feeler f = feeler(i, row);
      rays[count++] = f.down(0, 0);
      for (std::size_t step = 1; step <= steps; ++step)
        rays[count++] = f.down(far * static_cast<double>(step) / static_cast<double>(steps), f.radius);
    }
  }
  surroundings.cast_all(std::span(rays).first(count), others, std::span(hits).first(count));
  std::size_t low = 0;
  for (std::size_t r = 0; r < contacts.size() * rows; ++r) {
    Row& row = all_rows[r];
    const WheelContact& c = contacts[r / rows];
    const WheelState& s = state.wheels[r / rows];
    const auto& now = hits[row.first];
    row.met.looked = {}, row.low = low;
    if (!tuning.look_ahead || !now || now->distance <= 0 || dot(now->normal, up) < 0.15) continue;
    const double high = clear * c.radius;
    const bool same =
        s.pressed && std::abs(dot(s.contact - now->point, now->normal)) < high && dot(s.normal, now->normal) > 0.9986;
    if (same && c.speed < at_rest) continue;
    const Vec3 level = normalised(in_plane(c.way, now->normal)), origin = now->point + now->normal * high;
    const Vec3 down_to = level * (c.far + c.across) - now->normal * high;
    const double length = norm(down_to);
    row.met.looked[0] = true, rays[low++] = {origin, down_to / length, 1.3 * length};
    if (c.slow || !same) row.met.looked[1] = true, rays[low++] = {origin, -level, c.across};
  }
  surroundings.cast_all(std::span(rays).first(low), others, std::span(low_hits).first(low));
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    WheelContact& c = contacts[i];
    const Place at = place(i);
    GroundForm form = GroundForm::plane;
    for (std::size_t k = 0; k < rows; ++k) {
      Row& row = all_rows[i * rows + k];
      std::size_t next = row.low;
      for (const std::size_t side : {0u, 1u}) {
        row.met.hits[side].reset();
        if (row.met.looked[side]) row.met.hits[side] = low_hits[next++];
      }
      Feeler f = feeler(i, row);
      row.form = feel_row(f, std::span(hits).subspan(row.first, row.steps + 1), row.met, profiles[k]);
      form = std::max(form, row.form);
    }
    const double hanging = -at.numbers.rest_length.at[at.lane] - at.numbers.droop.at[at.lane];
    const auto stands = [&](double along) {
      std::optional<Standing> best;
      for (std::size_t k = 0; k < rows; ++k) {
        const Row& row = all_rows[i * rows + k];
        std::optional<Standing> here;
        if (row.form == GroundForm::plane) {
          const auto& now = hits[row.first];
          if (now && now->distance > 0 && dot(now->normal, up) > 0.15) here = on_plane(c, *now, along);
        } else if (const auto footing = profiles[k].stands(along, c.radius, c.across, hanging)) {
          here = Standing{along, footing->drop, c.way * (footing->touch_x - along) + up * footing->touch_z,
                          normalised(up - c.way * footing->slope - c.aside * footing->sideways), footing->ground};
        }
        if (!here || (best && best->drop <= here->drop)) continue;
        best = here, best->touch += row.off;
      }
      if (best && best->drop > c.length) best.reset();
      return best;
    };
    if (form == GroundForm::steps || (c.speed > at_rest && c.sideways)) {
      const auto now = stands(0);
      look_for_walls(i, now ? now->drop : -hanging, others);
    }
    lay_all(i, stands, 0.25, form);
  }
}

/// The profile under one row of rays.
GroundForm Vehicle::Tick::feel_row(Feeler& f, std::span<const std::optional<Hit>> hits, const LowHits& met,
                                   RolledProfile& profile) const {
  using Felt = Feeler::Felt;
  profile.places.clear();
  const double far = f.c.far, ends = far + f.across, edge = 0.006 * f.radius;
  const std::size_t last = hits.size() - 1;
  if (hits[0] && hits[0]->distance > 0) f.stands_on = hits[0]->body;
  Felt now = f.felt(hits[0], 0, 0);
  if (hits[0] && (hits[0]->distance <= 0 || dot(hits[0]->normal, up) < 0.15))
    now.found = false, now.place.z = -infinite;                       // the mount is inside of something, or beside it
  const bool level = now.found && std::abs(now.place.slope) < steep;  // else it is on the face of a step
  const auto off_plane = [&](const Hit& hit) { return dot(hit.point - hits[0]->point, hits[0]->normal); };
  const bool falls = met.looked[0] && (!met.hits[0] || off_plane(*met.hits[0]) < -flat * f.radius);
  const auto stands_up = [&](std::size_t side) {
    const auto& hit = met.hits[side];
    return hit && (off_plane(*hit) > flat * f.radius || dot(hit->normal, hits[0]->normal) < 0.9998) &&
           f.counts(hit->body);
  };
  const bool up_before = !falls && stands_up(0), up_behind = stands_up(1);
  if (!tuning.look_ahead || (now.found && !met.looked[0])) return GroundForm::plane;
  if (level && !up_before && !up_behind && !falls) {
    bool plane = true;
    for (std::size_t k = 1; k <= last && plane; ++k)
      plane =
          hits[k] && std::abs(off_plane(*hits[k])) < flat * f.radius && dot(hits[k]->normal, hits[0]->normal) > 0.9998;
    if (plane) return GroundForm::plane;
  }
  // Places that are known; between them it looks closer.
  InlineList<Felt, 96> places;
  const auto know = [&](double along) { places.push_back(f.feel(along, now)); };
  const auto scan = [&](double from, double to) {
    const int parts = std::min(most_stones, static_cast<int>(std::abs(to - from) / (stone * f.radius)) + 1);
    for (int k = 1; k <= parts; ++k) know(from + (to - from) * k / parts);
  };
  const auto both_sides = [&](const Hit& of_face) {
    const double face = dot(of_face.point - f.mount, f.c.way);
    know(face - edge), know(face + edge);
  };
  const auto bends = [&](const Felt& felt) { return level && f.slope_near(felt, now); };
  const Felt before = f.felt_at(met.hits[0], up_before), behind = f.felt_at(met.hits[1], up_behind);
  const auto look = [&](bool closely) {
    places.clear(), profile.places.clear();
    places.push_back(now);
    if (!level) {
      scan(0, -f.across);
    } else if (up_behind && !bends(behind)) {
      both_sides(*met.hits[1]), know(-f.across);
    } else {
      if (up_behind) places.push_back(behind);
      places.push_back(Feeler::beyond(up_behind ? behind : now, -1.5 * f.across));
    }
    Felt end = now;
    if (last == 0 && far > 0) know(far), end = places[places.size() - 1];
    for (std::size_t k = 1; k <= last; ++k) {
      const double along = far * static_cast<double>(k) / static_cast<double>(last);
      end = !hits[k] || f.counts(hits[k]->body) ? f.felt(hits[k], along, f.radius) : Feeler::beyond(now, along);
      places.push_back(end);
    }
    closely |= !end.found || std::abs(end.place.slope) >= steep;
    if (up_before && bends(before)) {
      places.push_back(before);
      if (before.place.x > end.place.x) end = before;
    } else if (up_before) {
      both_sides(*met.hits[0]);
    }
    if (closely) {
      scan(0, ends);
    } else {
      places.push_back(Feeler::beyond(end, ends + 0.5 * f.across));
    }
    for (Felt* at = places.begin(); at != places.end(); ++at) {  // a stable sort that allocates nothing
      const auto is_before = [](double x, const Felt& b) { return x < b.place.x; };
      std::rotate(std::upper_bound(places.begin(), at, at->place.x, is_before), at, at + 1);
    }
    if (places[0].found) profile.places.push_back(places[0].place);
    for (std::size_t k = 1; k < places.size(); ++k) f.join(profile, places[k - 1], places[k], 7);
    return closely;
  };
  bool steps = look(!level || (up_before && !bends(before)) || (up_behind && !bends(behind)));
  if (!steps) {
    for (std::size_t k = 0; k + 1 < profile.places.size(); ++k) steps |= !profile.places[k].joined;
    if (steps) look(true);
  }
  if (!steps) return GroundForm::bends;
  if (level) leave_walls(f, now.place.z, now.place.slope, profile);
  return GroundForm::steps;
}

/// A face that rises further than a wheel can roll up is no ground, from its foot on. `under`, `slope`: of the ground.
void Vehicle::Tick::leave_walls(const Feeler& f, double under, double slope, RolledProfile& profile) const {
  constexpr double face = 2;  // rise over run from which it is one
  auto& places = profile.places;
  const auto too_high = [&](const ProfilePlace& p) {
    return (p.z - under - slope * p.x) / same_bits::hypot(1, slope) > RolledProfile::highest * f.radius;
  };
  const auto rises = [&](const ProfilePlace& low, const ProfilePlace& high, bool joined) {
    return high.z - low.z > (joined ? face * std::abs(high.x - low.x) : 0.0);
  };
  constexpr std::size_t none = RolledProfile::most;
  std::size_t begin = 0, end = places.size(), foot_before = none, foot_behind = none;
  for (std::size_t i = 1; i < end; ++i) {
    if (places[i].x <= 0) continue;
    if (!rises(places[i - 1], places[i], places[i - 1].joined))
      foot_before = none;
    else if (foot_before == none)
      foot_before = i;
    if (foot_before != none && (too_high(places[i]) || i + 1 == end)) end = foot_before;
  }
  for (std::size_t i = end; i-- > 1 && begin == 0;) {
    if (places[i - 1].x >= 0) continue;
    if (!rises(places[i], places[i - 1], places[i - 1].joined))
      foot_behind = none;
    else if (foot_behind == none)
      foot_behind = i;
    if (foot_behind != none && (too_high(places[i - 1]) || i == 1)) begin = foot_behind;
  }
  std::rotate(places.begin(), places.begin() + begin, places.begin() + end);
  places.shrink(end - begin);
  if (!places.empty()) places[places.size() - 1].joined = false;
}

}  // namespace jugend
