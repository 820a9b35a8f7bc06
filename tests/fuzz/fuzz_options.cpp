// The command line, drawn by libFuzzer: a word a line. Each is done (0) or refused (2), never a fault of the program.
// ./dev fuzz --seconds N options.
#include <unistd.h>

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <string>
#include <string_view>
#include <vector>

int jugend_main(int argc, char** argv);  // apps/jugend/main.cpp

namespace {

namespace fs = std::filesystem;

/// In a folder of its own, that of a small trial, and without a voice.
void settle() {
  std::string name = fs::exists("/dev/shm") ? "/dev/shm/jugend-fuzz-XXXXXX" : "/tmp/jugend-fuzz-XXXXXX";
  if (::mkdtemp(name.data()) == nullptr || ::chdir(name.c_str()) != 0) std::abort();
  static const fs::path folder = name;
  std::atexit([] {
    std::error_code ignored;
    fs::remove_all(folder, ignored);
  });
  std::ofstream("l.level.toml") << "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [40, 1, 8]\n";
  std::ofstream("t.toml") << "level = \"l.level.toml\"\nduration_s = 0.2\n[[actor]]\nname = \"courier\"\n"
                             "start = [0, 0.5, 0]\n";
  if (std::freopen("/dev/null", "w", stdout) == nullptr) std::abort();
}

/// What would leave the folder, draw for seconds, or run for hours is not asked for.
bool asked(std::string_view word) {
  for (const char* no : {"demo", "plot", "/", "..", "duration", "hz", "most", "open"})
    if (word.find(no) != std::string_view::npos) return false;
  return word.find('\0') == std::string_view::npos;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const bool settled = (settle(), true);
  std::vector<std::string> words{settled ? "jugend" : ""};
  std::string word;
  for (std::size_t i = 0; i <= size; ++i) {
    if (i < size && data[i] != '\n') {
      word += static_cast<char>(data[i]);
      continue;
    }
    if (!asked(word)) return 0;
    words.push_back(word), word.clear();
  }
  std::vector<char*> argv;
  for (std::string& each : words) argv.push_back(each.data());
  argv.push_back(nullptr);
  const int code = jugend_main(static_cast<int>(words.size()), argv.data());
  if (code != 0 && code != 2) {
    std::fprintf(stderr, "exit code %d\n", code);
    std::abort();
  }
  for (const auto& left : fs::directory_iterator("."))
    if (left.is_directory()) fs::remove_all(left);
  return 0;
}
