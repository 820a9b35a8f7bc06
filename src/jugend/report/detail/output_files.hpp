// Files that a run writes: whole or not at all, also on a full disk. Inner to report.
#pragma once

#include <filesystem>
#include <jugend/lab/trace.hpp>
#include <string>
#include <utility>
#include <vector>

namespace jugend {

/// Throws InputError about a file as a whole.
[[noreturn]] void refuse_file(const std::filesystem::path& file, std::string found, std::string allowed);

/// Files that come to stand all or not at all: written beside their places first, then named in a journal, then put in
/// their places. Who is killed between leaves what current() reads whole, and the next set finishes it. Throws
/// InputError where a place cannot be written; then nothing has changed.
class FileSet {
 public:
  explicit FileSet(const std::filesystem::path& folder);
  FileSet(const FileSet&) = delete;
  ~FileSet();
  void add(const std::string& name, const std::string& text);
  std::vector<std::filesystem::path> place();
  /// Where the file of that name is now: beside its place, where its set was killed as it was put there.
  static std::filesystem::path current(const std::filesystem::path& folder, const std::string& name);

  static constexpr const char* beginning = ".jugend-";  ///< of the names of files that are being written

 private:
  std::filesystem::path folder_;
  std::vector<std::filesystem::path> made_;  // folders that were not there, the innermost first
  std::vector<std::pair<std::filesystem::path, std::filesystem::path>> waiting_;
  bool done_ = false;
};

/// A text's check sum, FNV-1a of its bytes.
std::string sum_of(const std::string& text);

/// The files of parts that a trace's actors have: "wheels", "rotors".
std::vector<std::string> part_files(const Trace& trace);

}  // namespace jugend
