// Files from outside: opened once, read once, and within the budgets that docs/files.md lists.
#pragma once

#include <cstddef>
#include <filesystem>
#include <string>

namespace jugend {

/// What a file may hold at most. All are checked before anything is built of it.
namespace budget {
inline constexpr std::size_t text_bytes = 16'000'000;    ///< of a tuning, trial or level file
inline constexpr std::size_t data_bytes = 64'000'000;    ///< of a map, heights or material file
inline constexpr std::size_t mesh_bytes = 512'000'000;   ///< of a mesh file, and of all that it names
inline constexpr std::size_t run_bytes = 4'000'000'000;  ///< of a file in a run folder
inline constexpr std::size_t depth = 64;                 ///< of tables, lists and dotted keys; of JSON four times that
inline constexpr std::size_t corners = 256;              ///< of one face of a mesh
inline constexpr std::size_t name_bytes = 120;           ///< of a name of an actor, a body or a surface
inline constexpr std::size_t bodies = 50'000;            ///< of a level; `--most-bodies` allows more
inline constexpr std::size_t faces = 10'000'000;         ///< triangles, cells and tiles of all shapes of a level
inline constexpr std::size_t road_heights = 200'000;     ///< of all roads of a level
inline constexpr std::size_t rows = 10'000'000;          ///< ticks of a run
inline constexpr double far = 1e7;                       ///< m from the origin, of a mesh's corner
}  // namespace budget

/// The bytes of a regular file. Throws InputError for what is none, cannot be read, or is larger than `most`, with
/// `wanted` as what is allowed.
std::string read_input_file(const std::filesystem::path& file, std::size_t most, const std::string& wanted);

/// A file that another one, in `folder`, names. Throws InputError at `from` and `key` where it does not lie under that
/// folder.
std::filesystem::path under_folder(const std::filesystem::path& folder, const std::string& named,
                                   const std::filesystem::path& from, const std::string& key);

/// Are there control characters in it, as a terminal or a table would obey?
bool has_control_characters(const std::string& text);

/// Throws InputError where brackets of a JSON text lie deeper in one another than four times the budget; strings are
/// passed over.
void check_json_depth(const std::string& text, const std::filesystem::path& file);

}  // namespace jugend
