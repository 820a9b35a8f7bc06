#include "progress.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <cstdio>

namespace jugend::app {

void Progress::operator()(double share) {
  if (isatty(STDERR_FILENO) == 0) return;
  const std::chrono::duration<double> spent = std::chrono::steady_clock::now() - start_;
  if (spent.count() < 1) return;
  constexpr int width = 32;
  const int done = static_cast<int>(share * width);
  fmt::print(stderr, "\r{} [{:=<{}}{:<{}}] {:3.0f} %", what_, "", done, "", width - done, share * 100);
  std::fflush(stderr);
  shown_ = true;
}

Progress::~Progress() {
  if (shown_) fmt::print(stderr, "\r\x1b[K");
}

}  // namespace jugend::app
