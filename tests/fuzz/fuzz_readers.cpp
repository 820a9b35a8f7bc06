// What comes from outside, drawn by libFuzzer: each reader answers with a value or an InputError, whatever it is given.
// One program a reader, by FUZZ_NAME: ./dev fuzz --seconds N NAME.
#include <unistd.h>

#include <cstdint>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <jugend/base/error.hpp>
#include <jugend/lab/mesh_file.hpp>
#include <jugend/lab/trial.hpp>
#include <jugend/lab/tuning_file.hpp>
#include <jugend/report/run_folder.hpp>
#include <string>
#include <string_view>

namespace {

namespace fs = std::filesystem;
using namespace jugend;

constexpr std::string_view reader = FUZZ_NAME;
constexpr const char* level_text = "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [40, 1, 8]\n";
constexpr const char* trial_text =
    "level = \"l.level.toml\"\nduration_s = 0.2\n[[actor]]\nname = \"courier\"\nstart = [0, 0.5, 0]\n";

/// In memory where there is such a place: it is written for each input.
const fs::path& folder() {
  static const fs::path made = [] {
    std::string name = fs::exists("/dev/shm") ? "/dev/shm/jugend-fuzz-XXXXXX" : "/tmp/jugend-fuzz-XXXXXX";
    if (::mkdtemp(name.data()) == nullptr) std::abort();
    std::atexit([] {
      std::error_code ignored;
      fs::remove_all(folder(), ignored);
    });
    return fs::path(name);
  }();
  return made;
}
fs::path put(const char* name, std::string_view text) {
  std::ofstream(folder() / name, std::ios::binary) << text;
  return folder() / name;
}
void put_level_of(const char* shape, const char* file) {
  put("l.level.toml",
      std::string("[[body]]\nname = \"floor\"\ncell = 1\nshape = \"") + shape + "\"\nfile = \"" + file + "\"\n");
}

void read(std::string_view input) {
  if (reader == "tuning") {
    read_tuning(put("t.toml", input));
  } else if (reader == "trial") {
    put("l.level.toml", level_text);
    read_trial(put("t.toml", input));
  } else if (reader == "level") {
    read_level(put("l.level.toml", input), 2000);
  } else if (reader == "map") {
    put("f.txt", input);
    put("l.level.toml", "[[body]]\nname = \"floor\"\nshape = \"tiles\"\nfile = \"f.txt\"\n");
    read_level(folder() / "l.level.toml");
  } else if (reader == "heights") {
    put("f.txt", input), put_level_of("heights", "f.txt");
    read_level(folder() / "l.level.toml");
  } else if (reader == "gltf") {
    put("b.bin", std::string(36, '\0'));
    read_mesh(put("m.gltf", input));
  } else if (reader == "glb") {
    read_mesh(put("m.glb", input));
  } else if (reader == "obj") {
    put("m.mtl", "newmtl stone\n");
    read_mesh(put("m.obj", input));
  } else if (reader == "run") {  // the summary up to a line of its own, the table after it
    static const RunRecord plain = [] {
      put("l.level.toml", level_text);
      return record_run(read_trial(put("t.toml", trial_text)));
    }();
    write_run(plain, folder() / "run");
    const auto cut = input.find("\n---\n");
    const bool both = cut != std::string_view::npos;
    std::ofstream(folder() / "run/summary.json", std::ios::binary) << input.substr(0, cut);
    if (both) std::ofstream(folder() / "run/trace.csv", std::ios::binary) << input.substr(cut + 5);
    read_run(folder() / "run");
  } else {
    static_assert(reader == "tuning" || reader == "trial" || reader == "level" || reader == "map" ||
                  reader == "heights" || reader == "gltf" || reader == "glb" || reader == "obj" || reader == "run" ||
                  reader == "set");
    static const Trial plain = [] {
      put("l.level.toml", level_text);
      return read_trial(put("t.toml", trial_text));
    }();
    Trial trial = plain;
    apply_setting(trial, std::string(input));
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    read({reinterpret_cast<const char*>(data), size});
  } catch (const InputError&) {  // an answer
  } catch (const std::filesystem::filesystem_error&) {
  }
  return 0;
}
