// A random scene that laws are held against: ground, things in it, one actor of a kind, and a timeline of its inputs.
#pragma once

#include <cstdint>
#include <jugend/stage/kinds.hpp>
#include <string>
#include <vector>

#include "../support/random.hpp"

namespace jugend::laws {

using testing::Random;

/// The kinds that scenes are made with; bodies: a scene of plain ones alone.
enum class Cast : std::uint8_t { walker, forced, roller, led_body, vehicle, multirotor, bodies, tracked, boat };
inline constexpr Cast all_casts[] = {Cast::walker,     Cast::forced, Cast::roller,  Cast::led_body, Cast::vehicle,
                                     Cast::multirotor, Cast::bodies, Cast::tracked, Cast::boat};
const char* name_of(Cast cast);

/// What the floor is made of: it looks the same to whoever moves on it.
enum class Floor : std::uint8_t { box, slabs, mesh, heights, tiles };
const char* name_of(Floor floor);

struct LawInput {
  double at = 0;                ///< s
  double ahead = 0, right = 0;  ///< from now on
  bool jump = false, dash = false, launch = false;
};
struct LawBox {
  Vec3 centre, half;
  double angle = 0;  ///< rad about up
};

struct LawScene {
  Cast cast = Cast::walker;
  std::uint32_t seed = 0;
  Floor floor = Floor::box;
  double height = 0;             ///< m of the actor's start above the floor, or the water
  bool clings = false;           ///< a walker to walls and ledges
  std::vector<LawBox> things;    ///< that stand on the floor
  std::vector<LawBox> crates;    ///< that can be moved
  std::vector<LawInput> inputs;  ///< by rising time
  double duration = 2;           ///< s

  /// As trial and level files, for whoever looks into what broke.
  std::string as_trial() const;
  std::string as_level() const;
};

/// What is drawn at random; `things`: with steps, ramps' edges and walls in its way.
LawScene draw_scene(Cast cast, std::uint32_t seed, bool things);

/// How a scene is played: turned, moved, on a deck that moves, at a rate.
struct Staging {
  double hz = 60;
  double delay = 0;            ///< s by which the whole timeline begins later
  Quat turn{};                 ///< of the whole scene with its gravity
  Vec3 shift;                  ///< m
  Vec3 deck;                   ///< m/s of the floor and all on it
  bool mirrored = false;       ///< left for right
  double scale = 1;            ///< units of the world in a metre
  double slowed = 1;           ///< s of the world in one of the scene's: gravity is slowed² times less
  Vec3 nudge;                  ///< m by which the actor begins elsewhere
  bool company = false;        ///< things far away, added before
  int save_at = -1;            ///< tick after which it is saved, goes on, is restored and goes on again
  std::vector<LawBox> beside;  ///< what stands there besides
};

/// What came of it, told in the scene's own frame and size.
struct Played {
  std::vector<Vec3> path;    ///< of the actor (of bodies: the first), at each tenth of a second
  std::vector<double> tops;  ///< m of each apex above its take-off
  Vec3 end;
  int landings = 0;
  std::uint64_t hash = 0;
  bool finite = true;
};
Played play(const LawScene& scene, const Staging& staging);

}  // namespace jugend::laws
