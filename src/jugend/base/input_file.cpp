#include <algorithm>
#include <fstream>
#include <jugend/base/error.hpp>
#include <jugend/base/input_file.hpp>
#include <jugend/base/text.hpp>

namespace jugend {

std::string read_input_file(const std::filesystem::path& file, std::size_t most, const std::string& wanted) {
  const auto refuse = [&](std::string found, std::string allowed) {
    fail({{file.string()}, {}, std::move(found), std::move(allowed), {}});
  };
  std::error_code error;
  const auto status = std::filesystem::status(file, error);
  if (!std::filesystem::is_regular_file(status))
    refuse(std::filesystem::is_directory(status) ? "a folder" : "no file that can be read", wanted);
  std::ifstream in(file, std::ios::binary);
  if (!in) refuse("no file that can be read", wanted);
  std::string text;
  char piece[1 << 16];
  // Counted as it is read: it may grow meanwhile.
  while (in.read(piece, sizeof piece) || in.gcount() > 0) {
    text.append(piece, static_cast<std::size_t>(in.gcount()));
    if (text.size() > most) refuse(filled("a file of more than {} MB", most / 1'000'000), "a smaller one");
  }
  return text;
}

std::filesystem::path under_folder(const std::filesystem::path& folder, const std::string& named,
                                   const std::filesystem::path& from, const std::string& key) {
  namespace fs = std::filesystem;
  const fs::path asked(named);
  std::error_code error;
  const fs::path home = fs::weakly_canonical(folder.empty() ? "." : folder, error);
  const fs::path there = error ? fs::path() : fs::weakly_canonical(home / asked, error);
  const auto [left, rest] = std::mismatch(home.begin(), home.end(), there.begin(), there.end());
  const bool inside = left == home.end() || (std::next(left) == home.end() && left->empty());
  if (error || named.empty() || asked.is_absolute() || !inside || named.find('\0') != std::string::npos)
    fail({{from.string()}, key, filled("'{}'", named), "a file in the mesh's own folder", {}});
  return folder / asked;
}

bool has_control_characters(const std::string& text) {
  return std::ranges::any_of(text, [](char c) { return static_cast<unsigned char>(c) < 0x20 || c == 0x7f; });
}

void check_json_depth(const std::string& text, const std::filesystem::path& file) {
  std::size_t deep = 0;
  bool in_text = false;
  std::uint32_t line = 1;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '\n') ++line;
    if (in_text) {
      if (c == '\\')
        ++i;
      else if (c == '"')
        in_text = false;
      continue;
    }
    in_text = c == '"';
    if (c == '[' || c == '{') ++deep;
    if ((c == ']' || c == '}') && deep > 0) --deep;
    if (deep > 4 * budget::depth)
      fail({{file.string(), line, 1},
            "syntax",
            "brackets in one another",
            filled("at most {} deep", 4 * budget::depth),
            {}});
  }
}

}  // namespace jugend
