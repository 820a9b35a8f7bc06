// Runs the command line as a user does: exit code, output, errors, files left behind.
#pragma once

#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>

namespace jugend::testing {

inline std::string slurp(const std::filesystem::path& file) {
  std::ostringstream text;
  text << std::ifstream(file, std::ios::binary).rdbuf();
  return text.str();
}

/// A folder of its own for each test, gone at its end.
class Folder {
 public:
  Folder() {
    std::string name = (std::filesystem::temp_directory_path() / "jugend-test-XXXXXX").string();
    path_ = mkdtemp(name.data());
  }
  ~Folder() {
    std::error_code ignored;
    std::filesystem::remove_all(path_, ignored);
  }
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  const std::filesystem::path& path() const { return path_; }
  std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
  void write(const std::string& name, const std::string& text) const {
    std::ofstream(path_ / name, std::ios::binary) << text;
  }

 private:
  std::filesystem::path path_;
};

struct Answer {
  int code = -1;
  std::string out, err;
};

/// The program under test: this build's, unless the environment names another's.
inline std::string program() {
  const char* other = std::getenv("JUGEND_PROGRAM");
  return other != nullptr ? other : JUGEND_PROGRAM;
}

/// `jugend` with these arguments, in `folder`.
inline Answer jugend(const Folder& folder, const std::string& arguments) {
  const auto out = folder / ".out", err = folder / ".err";
  const std::string command = "cd '" + folder.path().string() + "' && '" + program() + "' " + arguments + " > '" +
                              out.string() + "' 2> '" + err.string() + "' < /dev/null";
  const int status = std::system(command.c_str());
  Answer answer{WIFEXITED(status) ? WEXITSTATUS(status) : -1, slurp(out), slurp(err)};
  std::filesystem::remove(out);
  std::filesystem::remove(err);
  return answer;
}

/// A small trial on a floor: floor.level.toml, courier.toml and trial.toml.
inline void write_trial(const Folder& folder) {
  folder.write("floor.level.toml",
               "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [100, 1, 8]\nposition = [40, -0.5, 0]\n");
  folder.write("courier.toml", "[jump]\nheight = 1.25\n");
  folder.write("trial.toml",
               "level = \"floor.level.toml\"\nduration_s = 3\n\n[[actor]]\nname = \"courier\"\ntuning = "
               "\"courier.toml\"\nstart = [0, 0, 0]\n\n"
               "[[cue]]\nat_s = 0.5\nrun = [1, 0]\n\n[[cue]]\nat_s = 1\npress = \"jump\"\n\n[[cue]]\nat_s = 2.5\nrun = "
               "[0, 0]\n");
}

}  // namespace jugend::testing
