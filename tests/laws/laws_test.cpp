// The short run of the laws: each law, each cast, some seeds.
#include "laws.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "../support/watched.hpp"
#include "query_law.hpp"

namespace jugend::laws {
namespace {

struct Asked {
  std::size_t law;
  Cast cast;
};

const std::uint32_t most_scenes = testing::unless_watched(400u, 10u);
/// Most of the time goes to what a world moves, and ./dev laws takes longer.
std::uint32_t scenes_of(Cast cast) {
  const bool slow = cast == Cast::bodies || cast == Cast::led_body || cast == Cast::tracked || cast == Cast::roller;
  return slow ? 2 * most_scenes / 5 : most_scenes;
}
// Few scenes say little of a share: then so many standard deviations are luck.
const double chance = testing::unless_watched(0.0, 3.0);

class Laws : public ::testing::TestWithParam<Asked> {};

std::vector<Asked> asked() {
  std::vector<Asked> all;
  for (std::size_t law = 0; law < all_laws().size(); ++law) {
    for (const Cast cast : all_casts) {
      if (may_break(all_laws()[law], cast) < 1) all.push_back({law, cast});
    }
  }
  return all;
}
INSTANTIATE_TEST_SUITE_P(All, Laws, ::testing::ValuesIn(asked()), [](const auto& tested) {
  return std::string(all_laws()[tested.param.law].name) + "_" + name_of(tested.param.cast);
});

TEST_P(Laws, Hold) {
  const Law& law = all_laws()[GetParam().law];
  const std::uint32_t all = scenes_of(GetParam().cast);
  const std::uint32_t scenes = std::string(law.name).starts_with("rate") ? all / 8 : all;
  std::string broken;
  double count = 0;
  for (std::uint32_t seed = 1; seed <= scenes; ++seed) {
    Random random(seed);
    const LawScene scene = draw_scene(GetParam().cast, seed, law.with_things);
    const std::string said = broken_by(law, scene, random);
    if (!said.empty()) broken += "seed " + std::to_string(seed) + ": " + said + "\n", ++count;
  }
  const double known = may_break(law, GetParam().cast) * scenes;
  EXPECT_LE(count, std::floor(known + chance * std::sqrt(known))) << broken;
}

TEST(LawScenes, TheFirstOfAllIsReallyMoved) {
  for (const Cast cast : all_casts) {
    double furthest = 0;
    for (std::uint32_t seed = 1; seed < 31 && furthest < 0.1; ++seed) {
      const Played played = play(draw_scene(cast, seed, false), {});
      ASSERT_TRUE(played.finite);
      furthest = std::max(furthest, norm(played.end - played.path.front()));
    }
    EXPECT_GT(furthest, 0.1) << name_of(cast);
  }
}

TEST(QueryLaw, NoneIsMissedAndNoneIsWrong) {
  std::uint64_t asked = 0;
  for (std::uint32_t seed = 1; seed <= 5 * most_scenes; ++seed) {
    const std::string said = broken_by_queries(seed, asked);
    EXPECT_EQ(said, "") << "seed " << seed;
  }
  EXPECT_GT(asked, 100 * most_scenes);
}

}  // namespace
}  // namespace jugend::laws
