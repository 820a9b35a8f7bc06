// A TOML file as plain values that know where they stand, and a reader that refuses what it does not know.
#pragma once

#include <filesystem>
#include <jugend/base/error.hpp>
#include <jugend/base/vec.hpp>
#include <limits>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace jugend {

struct DocMember;

struct DocValue {
  enum class Kind { boolean, number, text, list, table, other } kind = Kind::table;
  bool truth = false;
  double number = 0;
  std::string text;
  std::vector<DocValue> items;     ///< of a list
  std::vector<DocMember> members;  ///< of a table
  std::uint32_t line = 0, column = 0;

  /// As messages show it: "a table", "'quay'", "1.5".
  std::string shown() const;
};

/// A key of a table, and what stands behind it.
struct DocMember {
  std::string first;
  DocValue second;
};

/// Parses a file. Throws InputError with the place of a syntax error, or for a file that cannot be read
/// or is larger than 16 MB.
DocValue read_document(const std::filesystem::path& file);

/// The value of a text as TOML would have it, "3.5", "true", "[1, 2]"; a text where it is none: "limited".
DocValue value_of(const std::string& text);

struct Limits {
  double low = -std::numeric_limits<double>::max();
  double high = std::numeric_limits<double>::max();
  const char* unit = "";
};

/// Reads one table of a document. Every key asked for counts as known; finish() refuses the others.
class TableReader {
 public:
  /// `path` stands before keys in messages: "cue[2].".
  TableReader(const DocValue& table, std::string file, std::string path = {});

  /// Nothing where the key is absent; throws InputError where its value has the wrong type or range.
  std::optional<double> number(const std::string& key, const Limits& limits = {});
  std::optional<int> whole(const std::string& key, const Limits& limits = {});  ///< refuses fractions
  std::optional<bool> truth(const std::string& key);
  std::optional<std::string> text(const std::string& key);
  /// A text that names a row of a table: short, without commas and quotes.
  std::optional<std::string> name(const std::string& key);
  std::optional<Vec3> vec3(const std::string& key, const Limits& limits = {});
  std::optional<std::vector<double>> numbers(const std::string& key, std::size_t count, const Limits& limits = {});
  /// A list of places, [[0, 0, 0], [3, 0, 0]]; refused where absent.
  std::vector<Vec3> places(const std::string& key);
  const DocValue* table(const std::string& key);
  /// The tables of an array of tables; empty where absent.
  std::vector<const DocValue*> tables(const std::string& key);

  /// Of `found`, refused where the key is absent.
  template <class T>
  T required(const std::string& key, std::optional<T> found, const char* what) const {
    if (!found) missing(key, what);
    return *std::move(found);
  }
  /// Refuses the value of `key` (or the table, where absent).
  [[noreturn]] void refuse(const std::string& key, std::string found, std::string allowed,
                           std::string nearest = {}) const;
  [[noreturn]] void missing(const std::string& key, const char* what) const;
  /// The index of `found` among `names`; refused with the nearest where it is none of them.
  std::size_t choice(const std::string& key, const std::string& found, const std::vector<std::string>& names) const;
  /// Carries an error without a place to where `key` stands.
  [[noreturn]] void rethrow_at(const std::string& key, const InputError& error) const;

  void finish() const;
  const std::string& file() const { return file_; }
  std::string path_of(const std::string& key) const { return path_ + key; }
  Place place_of(const std::string& key) const;
  const DocValue* find(const std::string& key);

 private:
  double checked(const std::string& key, const DocValue& value, const Limits& limits) const;
  [[noreturn]] void wrong_type(const std::string& key, const DocValue& value, const char* wanted) const;

  const DocValue& table_;
  std::string file_, path_;
  std::vector<std::string> known_;
};

}  // namespace jugend
