#include <cmath>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/stage/conformance.hpp>

namespace jugend {
namespace {

std::string text_of(const Vec3& v) { return filled("({}, {}, {})", as_text(v.x, 6), as_text(v.y, 6), as_text(v.z, 6)); }

/// Each try has a place of its own, so that none meets what another left.
class Trying {
 public:
  explicit Trying(const HostTrial& trial) : trial_(trial), host_(trial.host), dt_(trial.dt) {}

  std::vector<std::string> all() {
    see(), rays(), sweeps(), overlaps(), impulses(), forces(), held(), gone(), back_again();
    return std::move(faults_);
  }

 private:
  Vec3 fresh() { return {1000.0 + 50 * places_++, 1000, -1000}; }
  BodyId ball(const Vec3& at, double mass = 2) { return trial_.add_ball(Sphere{0.5}, {at, {}}, mass); }
  BodyId block(const Vec3& at, const Vec3& half, double mass = 0) { return trial_.add_box(Box{half}, {at, {}}, mass); }

  void say(bool fine, const std::string& sentence) {
    if (!fine) faults_.push_back(sentence);
  }
  void want(double found, double wanted, double slack, const char* what) {
    say(std::abs(found - wanted) <= slack,
        filled("{}: found {}, wanted {}", what, as_text(found, 8), as_text(wanted, 8)));
  }
  void want(const Vec3& found, const Vec3& wanted, double slack, const char* what) {
    say(norm(found - wanted) <= slack, filled("{}: found {}, wanted {}", what, text_of(found), text_of(wanted)));
  }

  /// What facts() tells of a body.
  void see() {
    const Vec3 at = fresh();
    const BodyId id = ball(at), rock = block(at + Vec3{10, 0, 0}, {1, 1, 1});
    host_.set_motion(id, {1, 2, 3}, {0.1, 0.2, 0.3});
    const BodyFacts facts = host_.facts(id);
    want(facts.pose.position, at, 1e-9, "facts: place of a ball, m");
    want(facts.velocity, {1, 2, 3}, 1e-9, "facts: velocity after set_motion(), m/s");
    want(facts.spin, {0.1, 0.2, 0.3}, 1e-9, "facts: spin after set_motion(), rad/s");
    want(facts.mass, 2, 1e-9, "facts: mass of a ball of 2 kg");
    want(facts.centre, at, 1e-9, "facts: centre of mass of a ball, m");
    want(facts.inverse_inertia.xx, 1 / (0.4 * 2 * 0.25), 1e-3, "facts: inverse inertia of a ball, 1/(kg m²)");
    say(facts.moving, "facts: a body with a velocity does not count as moving");
    want(host_.facts(rock).mass, 0, 0, "facts: mass of a solid that nothing moves");
    say(!host_.facts(rock).moving, "facts: a solid that nothing moves counts as moving");
    say(is_finite(host_.gravity(at)), "gravity: numbers that are not finite");
    host_.place(id, {at + Vec3{0, 3, 0}, {}});
    want(host_.facts(id).pose.position, at + Vec3{0, 3, 0}, 1e-9, "place(): place, m");
    want(host_.facts(id).velocity, {1, 2, 3}, 1e-9, "place(): velocity, which stays, m/s");
  }

  void rays() {
    const Vec3 at = fresh();
    const BodyId near = block(at + Vec3{5, 0, 0}, {1, 2, 2}), far = block(at + Vec3{10, 0, 0}, {1, 2, 2});
    const Ray ray{at, {1, 0, 0}, 20};
    const auto hit = host_.cast(ray, {});
    if (!hit) return say(false, "cast: a ray along x misses a block in its way");
    want(hit->distance, 4, 1e-6, "cast: distance to the nearer of two blocks, m");
    want(hit->point, at + Vec3{4, 0, 0}, 1e-6, "cast: place that was hit, m");
    want(hit->normal, {-1, 0, 0}, 1e-6, "cast: normal, of unit length and towards the asker");
    say(hit->body == near, "cast: another body than the nearest one that it hit");
    const auto without = [&](Filter filter, const char* what) {
      const auto next = host_.cast(ray, filter);
      say(next && next->body == far, filled("cast: {} of the filter is not left out", what));
    };
    Filter filter;
    filter.self = near, without(filter, "`self`");
    filter = {}, filter.ignored = near, without(filter, "`ignored`");
    filter = {}, filter.passed = near, without(filter, "`passed`");
    filter = {}, filter.layers = 0;
    say(!host_.cast(ray, filter), "cast: a body on none of the layers asked for is hit");
    say(!host_.cast({at, {1, 0, 0}, 3.9}, {}), "cast: a ray of 3.9 m hits a block 4 m away");
    say(!host_.cast({at, {-1, 0, 0}, 20}, {}), "cast: a ray hits a block that lies behind it");
    std::array<Ray, 3> rays{ray, Ray{at, {-1, 0, 0}, 20}, Ray{at, normalised(Vec3{5, 1, 1}), 20}};
    std::array<std::optional<Hit>, 3> hits;
    host_.cast_all(rays, {}, hits);
    for (std::size_t i = 0; i < rays.size(); ++i) {
      const auto alone = host_.cast(rays[i], {});
      say(alone.has_value() == hits[i].has_value() && (!alone || std::abs(alone->distance - hits[i]->distance) < 1e-9),
          filled("cast_all: ray {} has another answer than from cast()", i));
    }
  }

  void sweeps() {
    const Vec3 at = fresh();
    block(at + Vec3{5, 0, 0}, {1, 3, 3});
    const auto sweep = [&](const Vec3& from, const Vec3& motion) {
      const PlacedConvex mover(Capsule{0.5, 0.5}, {from, {}});
      return host_.sweep(mover.view(), motion, {});
    };
    const auto hit = sweep(at, {10, 0, 0});
    if (!hit) return say(false, "sweep: a capsule misses a block in its way");
    want(hit->distance, 0.35, 1e-6, "sweep: share of a way of 10 m to a block 3.5 m away");
    want(hit->normal, {-1, 0, 0}, 1e-6, "sweep: normal, of unit length and towards the mover");
    say(!sweep(at, {3.4, 0, 0}), "sweep: a capsule hits a block that its way ends 10 cm before");
    const Vec3 touching = at + Vec3{3.5, 0, 0};
    say(!sweep(touching, {-1, 0, 0}), "sweep: what touches a block is stopped on its way off");
    say(!sweep(touching + Vec3{-1e-7, 0, 0}, {0, 1, 0}), "sweep: what lies beside a block is stopped along it");
    const auto into = sweep(touching, {1, 0, 0});
    say(into && into->distance < 1e-6, "sweep: what touches a block goes into it");
  }

  void overlaps() {
    const Vec3 at = fresh();
    const BodyId one = block(at + Vec3{1.4, 0, 0}, {1, 1, 1});
    block(at - Vec3{1.6, 0, 0}, {1, 1, 1});
    const PlacedConvex asked(Sphere{0.5}, {at, {}});
    std::array<Overlap, 4> found;
    const std::size_t inside = host_.overlaps(asked.view(), 0, found, {});
    want(static_cast<double>(inside), 1, 0, "overlaps: bodies that a ball overlaps, of two near it");
    if (inside == 1) {
      want(found[0].depth, 0.1, 1e-6, "overlaps: depth, m");
      want(found[0].normal, {-1, 0, 0}, 1e-6, "overlaps: normal, along which it comes out");
      say(found[0].body == one, "overlaps: another body than the one overlapped");
    }
    want(static_cast<double>(host_.overlaps(asked.view(), 0.2, found, {})), 2, 0,
         "overlaps: bodies within 0.2 m, of two");
    std::array<Overlap, 1> few;
    want(static_cast<double>(host_.overlaps(asked.view(), 0.2, few, {})), 2, 0,
         "overlaps: how many there are, where only one has room");
  }

  void impulses() {
    const Vec3 at = fresh();
    const BodyId id = ball(at);
    host_.push(id, {4, 0, 0}, at);
    want(host_.facts(id).velocity, {2, 0, 0}, 1e-9, "push: velocity of 2 kg after 4 N s, at once, m/s");
    want(host_.facts(id).spin, {}, 1e-9, "push: spin after an impulse at the centre, rad/s");
    host_.push(id, {0, 0, 0.1}, at + Vec3{0.5, 0, 0});
    want(host_.facts(id).spin, {0, -0.25, 0}, 1e-6,
         "push: spin of a ball after 0.1 N s along z, 0.5 m before its centre");
    host_.twist(id, {0.2, 0, 0});
    want(host_.facts(id).spin, {1, -0.25, 0}, 1e-6, "twist: spin of a ball after 0.2 N m s, at once, rad/s");
    const BodyId rock = block(at + Vec3{10, 0, 0}, {1, 1, 1});
    host_.push(rock, {100, 0, 0}, at);
    want(host_.facts(rock).velocity, {}, 0, "push: velocity of a solid that nothing moves");
  }

  /// x = v t + a t²/2, v = a t; nothing of it is left for the next step.
  void forces() {
    const Vec3 at = fresh(), force{30, 0, 12};
    const BodyId id = ball(at);
    const Vec3 v0{1, 0, 0}, a = force / 2 + host_.gravity(at);
    host_.set_motion(id, v0, {});
    host_.force(id, force, at);
    want(host_.facts(id).velocity, v0, 1e-9, "force: velocity before the step, m/s");
    host_.step(dt_);
    BodyFacts after = host_.facts(id);
    want(after.velocity, v0 + a * dt_, 1e-6 * norm(a) * dt_,
         "force: velocity after a step under 15 m/s² and gravity, m/s");
    const Vec3 way = after.pose.position - at, wanted = v0 * dt_ + a * (0.5 * dt_ * dt_);
    const Vec3 off = way - wanted, euler = a * (0.5 * dt_ * dt_);
    if (norm(off - euler) < 0.05 * norm(euler))
      say(false, filled("force: way of a step: found {}, wanted {} m; it moves by the velocity at the tick's end: act "
                        "through TwoKicks (motion/port/two_kicks.hpp)",
                        text_of(way), text_of(wanted)));
    else if (norm(off + euler) < 0.05 * norm(euler))
      say(false,
          filled("force: way of a step: found {}, wanted {} m; it moves by the velocity at the tick's begin, and "
                 "gains energy",
                 text_of(way), text_of(wanted)));
    else
      want(way, wanted, 1e-4 * norm(euler), "force: way of a step, v t + a t²/2, m");
    host_.step(dt_);
    after = host_.facts(id);
    want(after.velocity, v0 + (a + host_.gravity(at)) * dt_, 1e-3 * norm(a) * dt_,
         "force: velocity after a second step, in which none was given, m/s");
    const BodyId other = ball(fresh());
    host_.torque(other, {0, 3, 0});
    host_.step(dt_);
    want(host_.facts(other).spin, {0, 3 / 0.2 * dt_, 0}, 1e-3 * 15 * dt_,
         "torque: spin of a ball after a step under 3 N m, rad/s");
  }

  void held() {
    const Vec3 at = fresh();
    const BodyId id = ball(at);
    host_.set_motion(id, {3, 0, 0}, {});
    host_.hold(id, true);
    say(host_.held(id), "held: a body that is held does not say so");
    for (int i = 0; i < 3; ++i) host_.step(dt_);
    want(host_.facts(id).pose.position, at, 1e-9, "hold: place of a body that was held for three steps, m");
    host_.hold(id, false);
    say(!host_.held(id), "held: a body that was let go does not say so");
    want(host_.facts(id).velocity, {3, 0, 0}, 1e-6, "hold: velocity of a body that was let go, m/s");
  }

  void gone() {
    const Vec3 at = fresh();
    const BodyId id = ball(at);
    say(host_.alive(id), "alive: a body that was added is not alive");
    say(host_.remove(id), "remove: false for a body that was there");
    say(!host_.alive(id), "alive: a body that was removed is alive");
    say(!host_.remove(id), "remove: true for a body that is gone");
    say(!host_.cast({at - Vec3{3, 0, 0}, {1, 0, 0}, 10}, {}), "cast: a body that was removed is hit");
    const BodyId next = ball(at);
    say(next != id && !host_.alive(id), "ids: a new body has the id of one that is gone");
    say(!host_.alive(BodyId{}), "alive: the id of no body is alive");
  }

  /// Saved, gone on with, brought back and gone on with again.
  void back_again() {
    const Vec3 at = fresh();
    const BodyId id = ball(at);
    block(at - Vec3{0, 3, 0}, {5, 1, 5});
    host_.set_motion(id, {1, 0, 0.5}, {0, 2, 0});
    const auto go_on = [&] {
      for (int i = 0; i < 60; ++i) host_.force(id, {0, 0, 3}, at), host_.step(dt_);
      StateHash hash;
      host_.add_to(hash);
      return std::pair(host_.facts(id).pose.position, hash.value());
    };
    const std::vector<std::byte> then = host_.saved();
    const auto [first, hash] = go_on();
    host_.bring_back(then);
    want(host_.facts(id).pose.position, at, 0, "bring_back: place, m");
    const auto [second, again] = go_on();
    want(second, first, 0, "bring_back: place a second later, both times, m");
    say(hash == again, "add_to: another hash after the same second");
  }

  const HostTrial& trial_;
  Host& host_;
  double dt_;
  int places_ = 0;
  std::vector<std::string> faults_;
};

}  // namespace

std::vector<std::string> faults_of(const HostTrial& trial) { return Trying(trial).all(); }

}  // namespace jugend
