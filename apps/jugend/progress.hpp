// A progress bar on stderr for what takes over a second, where a person watches.
#pragma once

#include <chrono>
#include <string>

namespace jugend::app {

class Progress {
 public:
  explicit Progress(std::string what) : what_(std::move(what)) {}
  ~Progress();
  Progress(const Progress&) = delete;
  Progress& operator=(const Progress&) = delete;
  void operator()(double share);

 private:
  std::string what_;
  std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
  bool shown_ = false;
};

}  // namespace jugend::app
