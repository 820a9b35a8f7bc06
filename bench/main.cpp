// Runs the ratios that docs/performance.md states, those of one group by its name, or with --benchmark_filter=… the
// single benchmarks.
#include <benchmark/benchmark.h>
#include <fmt/ranges.h>

#include <map>
#include <ranges>
#include <string>

namespace jugend::bench {
void report_elementary_ratios();
void report_ray_ratios();
void report_stage_ratios();
void report_walker_ratios();
void report_vehicle_ratios();
void report_world_ratios();
}  // namespace jugend::bench

int main(int argc, char** argv) {
  const std::map<std::string, void (*)()> groups{
      {"elementary", jugend::bench::report_elementary_ratios}, {"rays", jugend::bench::report_ray_ratios},
      {"stage", jugend::bench::report_stage_ratios},           {"walkers", jugend::bench::report_walker_ratios},
      {"vehicles", jugend::bench::report_vehicle_ratios},      {"bodies", jugend::bench::report_world_ratios}};
  if (argc == 2 && groups.contains(argv[1])) return groups.at(argv[1])(), 0;
  if (argc == 1) {
    for (const auto& group : groups) group.second();
  }
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) {
    fmt::print(stderr, "allowed: one of {}; or --benchmark_filter=PATTERN; or nothing, for all\n",
               fmt::join(std::views::keys(groups), ", "));
    return 2;
  }
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
