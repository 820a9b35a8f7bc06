// Runs the ratios that docs/performance.md states, or with --benchmark_filter=… the single benchmarks.
#include <benchmark/benchmark.h>

#include <cstring>

namespace jugend::bench {
void report_ray_ratios();
void report_walker_ratios();
void report_vehicle_ratios();
void report_world_ratios();
}  // namespace jugend::bench

int main(int argc, char** argv) {
  bool ratios = true;
  for (int i = 1; i < argc; ++i) ratios &= std::strncmp(argv[i], "--benchmark", 11) != 0;
  if (ratios) {
    jugend::bench::report_ray_ratios();
    jugend::bench::report_walker_ratios();
    jugend::bench::report_vehicle_ratios();
    jugend::bench::report_world_ratios();
  }
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 1;
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
