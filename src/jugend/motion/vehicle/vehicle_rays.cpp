// The ground under wheels as rays find it: profiles along their ways, looked at closer where they bend or step.
#include <algorithm>
#include <array>
#include <cmath>
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
  BodyId stands_on{};         // what moves counts where the wheel stands on it already
  double bend = gentle_bend;  // of slope, up to which ground that changes it is the same ground

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
  bool slope_near(const Felt& a, const Felt& b) const {
    return a.found && b.found && std::abs(a.place.slope - b.place.slope) < bend;
  }
  /// What moves and is not stood on is no ground: as if the plane of `beside` went on.
  Felt felt_beside(const std::optional<Hit>& hit, double along, const Felt& beside) const {
    return !hit || counts(hit->body) ? felt(hit, along, radius) : beyond(beside, along);
  }
  Felt feel(double along, const Felt& beside) const {
    return felt_beside(tick.surroundings.cast(down(along, radius), others), along, beside);
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

Vehicle::Tick::Feeler Vehicle::Tick::feeler(const RayRow& row, const Filter& others) const {
  const Place at = place(row.wheel);
  const WheelContact& c = contacts[row.wheel];
  const Vec3 mount = at.team.mount.get(at.lane) + row.off;
  Feeler f{*this, c, mount, c.radius, c.across, c.length + c.radius, others};
  if (row.down[0] && row.down[0]->distance > 0) f.stands_on = row.down[0]->body;
  return f;
}

/// Rays down from the mount along each wheel's way, in one row or, beside it, in two more under the edges of its tread.
/// A low ray goes over the ground down to where the wheel reaches at the tick's end: what stands up is met before, and
/// where the ground falls away it is met beyond. One more goes back, where a wheel may still stand on an edge behind
/// it. All rays of a kind are asked at once.
void Vehicle::Tick::sense_by_rays(std::size_t rows) {
  // One place for all vehicles of a thread: it stays in the cache.
  static thread_local std::array<RayRow, most_wheels * most_rows> all;
  static thread_local std::array<WallLook, most_wheels> walls;
  static thread_local RayBatch batch;
  Filter others = v.filter;
  others.ignored = v.body_;
  const auto mine = std::span(all).first(contacts.size() * rows);
  for (std::size_t r = 0; r < mine.size(); ++r) {
    mine[r].wheel = r / rows;
    ask_down(mine[r], r % rows, others, batch);
  }
  batch.send(surroundings, others);
  for (RayRow& row : mine) ask_low(row, batch);
  batch.send(surroundings, others);
  for (RayRow& row : mine) ask_further(row, others, batch);
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    walls[i].count = 0;
    const bool air = std::ranges::any_of(mine.subspan(i * rows, rows), &RayRow::air);
    if (air || (contacts[i].speed > at_rest && contacts[i].sideways))
      ask_for_walls(i, drop_on_planes(i, mine.subspan(i * rows, rows)), walls[i], batch);
  }
  batch.send(surroundings, others);
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    take_walls(i, walls[i]);
    stand_on_rows(i, mine.subspan(i * rows, rows), others);
  }
}

void Vehicle::Tick::ask_down(RayRow& row, std::size_t which, const Filter& others, RayBatch& batch) const {
  const Place at = place(row.wheel);
  const WheelContact& c = contacts[row.wheel];
  const double half = 0.5 * v.wheels_[row.wheel].width, offs[] = {0, half, -half};
  row.off = which == 0 ? Vec3{} : cross(at.team.heading.get(at.lane), up) * offs[which];
  row.steps = std::min(static_cast<std::size_t>(c.far / (hole * c.radius)), most_ahead);
  row.down[0].reset();  // of the last tick
  const Feeler f = feeler(row, others);
  batch.ask(f.down(0, 0), row.down[0]);
  for (std::size_t step = 1; step <= row.steps; ++step)
    batch.ask(f.down(c.far * static_cast<double>(step) / static_cast<double>(row.steps), f.radius), row.down[step]);
}

void Vehicle::Tick::ask_low(RayRow& row, RayBatch& batch) const {
  const WheelContact& c = contacts[row.wheel];
  const WheelState& s = state.wheels[row.wheel];
  const auto& now = row.down[0];
  row.looked_low = {};
  row.low = {};
  if (!tuning.look_ahead || !stands_on(now)) return;
  const double high = clear * c.radius;
  const bool same =
      s.pressed && std::abs(dot(s.contact - now->point, now->normal)) < high && dot(s.normal, now->normal) > 0.9986;
  if (same && c.speed < at_rest) return;
  const Vec3 level = normalised(in_plane(c.way, now->normal)), origin = now->point + now->normal * high;
  const Vec3 down_to = level * (c.far + c.across) - now->normal * high;
  const double length = norm(down_to);
  row.looked_low[0] = true, batch.ask({origin, down_to / length, 1.3 * length}, row.low[0]);
  if (c.slow || !same) row.looked_low[1] = true, batch.ask({origin, -level, c.across}, row.low[1]);
}

/// Judges what is known so far. Where that is more than one plane, the places that are looked at next in any case.
void Vehicle::Tick::ask_further(RayRow& row, const Filter& others, RayBatch& batch) const {
  const Feeler f = feeler(row, others);
  const auto& now = row.down[0];
  row.looked_further = {};
  const bool stands = stands_on(now);
  const double slope = stands ? -dot(now->normal, f.c.way) / dot(now->normal, up) : 0.0;
  row.level = stands && std::abs(slope) < steep;  // else it is on the face of a step
  const auto off_plane = [&](const Hit& hit) { return dot(hit.point - now->point, now->normal); };
  row.falls = row.looked_low[0] && (!row.low[0] || off_plane(*row.low[0]) < -flat * f.radius);
  const auto stands_up = [&](std::size_t side) {
    const auto& hit = row.low[side];
    return hit && (off_plane(*hit) > flat * f.radius || dot(hit->normal, now->normal) < 0.9998) && f.counts(hit->body);
  };
  row.up_before = !row.falls && stands_up(0), row.up_behind = stands_up(1);
  row.plane = !tuning.look_ahead || (stands && !row.looked_low[0]);
  if (!row.plane && row.level && !row.up_before && !row.up_behind && !row.falls) {
    row.plane = true;
    for (std::size_t k = 1; k <= row.steps && row.plane; ++k)
      row.plane = row.down[k] && std::abs(off_plane(*row.down[k])) < flat * f.radius &&
                  dot(row.down[k]->normal, now->normal) > 0.9998;
  }
  row.air = !row.plane && !now && reaches_nothing(f);
  if (row.plane || row.air) return;
  if (row.steps == 0 && f.c.far > 0) row.looked_further[0] = true, batch.ask(f.down(f.c.far, f.radius), row.further[0]);
  if (!row.level || !row.up_before) return;
  const Feeler::Felt before = f.felt_at(row.low[0], true);
  if (before.found && std::abs(before.place.slope) < steep && std::abs(before.place.slope - slope) >= gentle_bend)
    row.looked_further[1] = true, batch.ask(f.down(f.c.far + f.across, f.radius), row.further[1]);
}

/// Is there nothing that the wheel could come to in this tick, though it hung between two planks?
bool Vehicle::Tick::reaches_nothing(const Feeler& f) const {
  const Vec3 along = f.c.way * (f.c.far + 2 * f.across), upwards = up * (f.length + f.radius);
  const Vec3 aside = f.c.aside * (0.01 * f.radius), corner = f.mount - f.c.way * f.across - up * f.length - aside * 0.5;
  std::array<Vec3, 8> corners;
  for (std::size_t i = 0; i < corners.size(); ++i)
    corners[i] = corner + along * (i & 1 ? 1.0 : 0.0) + upwards * (i & 2 ? 1.0 : 0.0) + aside * (i & 4 ? 1.0 : 0.0);
  return surroundings.overlaps({corners, 0, Core::box}, 0, {}, f.others) == 0;
}

/// m below its mount that a wheel's hub is, as far as rays straight down tell.
double Vehicle::Tick::drop_on_planes(std::size_t wheel, std::span<const RayRow> rows) const {
  const Place at = place(wheel);
  const WheelContact& c = contacts[wheel];
  double drop = at.numbers.rest_length.at[at.lane] + at.numbers.droop.at[at.lane];
  bool found = false;
  for (const RayRow& row : rows) {
    if (!stands_on(row.down[0])) continue;
    const double here = on_plane(c, *row.down[0], 0).drop;
    if (here <= c.length && (!found || here < drop)) drop = here, found = true;
  }
  return drop;
}

/// Lays a wheel's way over what its rows of rays have found.
void Vehicle::Tick::stand_on_rows(std::size_t wheel, std::span<RayRow> rows, const Filter& others) {
  static thread_local std::array<RolledProfile, most_rows> profiles;
  WheelContact& c = contacts[wheel];
  const Place at = place(wheel);
  GroundForm form = GroundForm::plane;
  for (std::size_t k = 0; k < rows.size(); ++k) {
    rows[k].form = feel_row(rows[k], others, profiles[k]);
    form = std::max(form, rows[k].form);
  }
  const double hanging = -at.numbers.rest_length.at[at.lane] - at.numbers.droop.at[at.lane];
  const auto stands = [&](double along) {
    std::optional<Standing> best;
    for (std::size_t k = 0; k < rows.size(); ++k) {
      const RayRow& row = rows[k];
      std::optional<Standing> here;
      if (row.form == GroundForm::plane) {
        if (stands_on(row.down[0])) here = on_plane(c, *row.down[0], along);
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
  if (form == GroundForm::steps && !std::ranges::all_of(rows, &RayRow::air)) {
    const auto now = stands(0);
    look_for_walls(wheel, now ? now->drop : -hanging, others);
  }
  lay_all(wheel, stands, 0.25, form);
}

/// The profile under one row of rays.
GroundForm Vehicle::Tick::feel_row(const RayRow& row, const Filter& others, RolledProfile& profile) const {
  using Felt = Feeler::Felt;
  profile.places.clear();
  if (row.plane) return GroundForm::plane;
  if (row.air) return GroundForm::steps;
  Feeler f = feeler(row, others);
  const double far = f.c.far, ends = far + f.across, edge = 0.006 * f.radius;
  Felt now = f.felt(row.down[0], 0, 0);
  if (!stands_on(row.down[0])) now.found = false, now.place.z = -infinite;
  const Felt before = f.felt_at(row.low[0], row.up_before), behind = f.felt_at(row.low[1], row.up_behind);
  // A ramp, however sharp its foot, is one plane up to where the wheel reaches.
  if (row.looked_further[1]) {
    const Felt there = f.felt_beside(row.further[1], ends, before);
    if (there.found && f.one_plane(before, there, flat * f.radius)) f.bend = 2 * steep;
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
  const auto bends = [&](const Felt& felt) { return row.level && f.slope_near(felt, now); };
  const auto look = [&](bool closely) {
    places.clear(), profile.places.clear();
    places.push_back(now);
    if (!row.level) {
      scan(0, -f.across);
    } else if (row.up_behind && !bends(behind)) {
      both_sides(*row.low[1]), know(-f.across);
    } else {
      if (row.up_behind) places.push_back(behind);
      places.push_back(Feeler::beyond(row.up_behind ? behind : now, -1.5 * f.across));
    }
    Felt end = now;
    if (row.looked_further[0]) places.push_back(end = f.felt_beside(row.further[0], far, now));
    for (std::size_t k = 1; k <= row.steps; ++k) {
      end = f.felt_beside(row.down[k], far * static_cast<double>(k) / static_cast<double>(row.steps), now);
      places.push_back(end);
    }
    closely |= !end.found || std::abs(end.place.slope) >= steep;
    if (row.up_before && bends(before)) {
      places.push_back(before);
      if (before.place.x > end.place.x) end = before;
    } else if (row.up_before) {
      both_sides(*row.low[0]);
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
  bool steps = look(!row.level || (row.up_before && !bends(before)) || (row.up_behind && !bends(behind)));
  if (!steps) {
    for (std::size_t k = 0; k + 1 < profile.places.size(); ++k) steps |= !profile.places[k].joined;
    f.bend = gentle_bend;
    if (steps) look(true);
  }
  if (!steps) return GroundForm::bends;
  if (row.level) leave_walls(f, now.place.z, now.place.slope, profile);
  return GroundForm::steps;
}

/// A face that rises further than a wheel can roll up is no ground, from its foot on. `under`, `slope`: of the ground.
void Vehicle::Tick::leave_walls(const Feeler& f, double under, double slope, RolledProfile& profile) const {
  constexpr double face = 2;  // rise over run from which it is one
  auto& places = profile.places;
  const auto too_high = [&](const ProfilePlace& p) {
    return (p.z - under - slope * p.x) / std::sqrt(1 + slope * slope) > RolledProfile::highest * f.radius;
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
