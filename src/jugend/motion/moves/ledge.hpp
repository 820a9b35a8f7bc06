// Ledges: found by geometry, hung from, climbed, jumped off and dropped from.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/moves/ground.hpp>

namespace jugend {

struct LedgeTuning {
  bool on = false;            ///< ledges can be hung from
  double reach = 0.2;         ///< m that hands reach beyond the body
  double hand_height = 1.7;   ///< m from the feet to the hand line
  double settle_time = 0.12;  ///< s from the catch to rest
  double climb_time = 0.35;   ///< s from the hang to standing above
  double drop_delay = 0.3;    ///< s after letting go in which nothing is caught
};

/// An edge within reach of the hands.
struct Ledge {
  Vec3 edge;  ///< where the hands would be
  Vec3 out;   ///< unit, level: away from the wall
  BodyId body;
  Vec3 top, top_normal;  ///< what was found of its top, as far ahead as hands reach
};

/// Who looks for it.
struct Climber {
  Vec3 feet, up;
  double radius = 0.3;
  double ahead(const LedgeTuning& tuning) const { return radius + tuning.reach; }  ///< m from its middle to its hands
  double slack() const { return 0.05 * radius; }  ///< m that the hands may be above or below an edge
};

/// Looks for a ledge towards the level unit vector `towards`, whose edge the hands have passed in the last
/// `fallen` metres of the fall. There must be a wall below the edge, a top that is not steeper than 50
/// degrees, and free room above the hands: a ray down beyond the wall finds the top, one to the front the
/// wall, one more the top right at the edge.
std::optional<Ledge> find_ledge(const Climber& climber, const Vec3& towards, double fallen, const LedgeTuning& tuning,
                                const Surroundings& surroundings, const Filter& filter);

enum class Hold : std::uint8_t { free, settling, hanging, climbing };

struct LedgeState {
  Hold hold = Hold::free;
  double time = 0;               ///< s in this hold
  double since_drop = long_ago;  ///< s since it was let go
  BodyId body;
  Vec3 from, hang, top;  ///< feet in the body's frame: at the catch, at rest, standing above
  Vec3 edge;             ///< the hands, likewise
  Vec3 out;              ///< away from the wall, likewise

  static constexpr auto fields() {
    return field_list(Field{"hold", &LedgeState::hold}, Field{"time", &LedgeState::time},
                      Field{"since_drop", &LedgeState::since_drop}, Field{"body", &LedgeState::body},
                      Field{"from", &LedgeState::from}, Field{"hang", &LedgeState::hang},
                      Field{"top", &LedgeState::top}, Field{"edge", &LedgeState::edge}, Field{"out", &LedgeState::out});
  }
};
static_assert(all_fields_listed<LedgeState>);

/// The feet in the body's frame, as the hold has them now: eased to the hand line, still, or on the way up, first
/// straight up and then straight on, never through the edge. `up` in the same frame.
Vec3 feet_in_hold(const LedgeState& hold, const LedgeTuning& tuning, const Vec3& up);

/// Where the feet would stand above a ledge held at `edge`, on ground that carries, `skin` clear of it; `inward` is the
/// level unit vector over it.
std::optional<Vec3> stand_above(const Vec3& edge, const Vec3& inward, const Vec3& up, double radius, double skin,
                                const GroundTuning& tuning, const Surroundings& surroundings, const Filter& filter);

/// Begins a hold: `feet` where they are, `hang` where they will hang; both in the world, the body at `pose`.
LedgeState caught(const Ledge& ledge, const Pose& pose, const Vec3& feet, const Vec3& hang);

}  // namespace jugend
