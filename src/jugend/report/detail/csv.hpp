// Tables of plain rows as CSV: a list of columns writes the head and the rows, and reads them back.
#pragma once

#include <fmt/format.h>

#include <charconv>
#include <cmath>
#include <cstdint>
#include <iterator>
#include <jugend/lab/trace.hpp>
#include <limits>
#include <stdexcept>
#include <string>
#include <tuple>
#include <type_traits>
#include <vector>

namespace jugend::csv {

/// A column: its name, where its value lies in a row, and code units per file unit.
template <class At>
struct Column {
  std::string name;
  At at;
  double scale = 1;
};
template <class At>
Column(std::string, At, double) -> Column<At>;
template <class At>
Column(std::string, At) -> Column<At>;

/// The cells of a line.
inline std::vector<std::string> cells_of(const std::string& line) {
  std::vector<std::string> cells(1);
  for (const char c : line) {
    if (c == ',')
      cells.emplace_back();
    else if (c != '\r')
      cells.back() += c;
  }
  return cells;
}

inline double number_in(const std::string& cell) {
  double value = 0;
  const char* end = cell.data() + cell.size();
  const auto [stop, wrong] = std::from_chars(cell.data(), end, value);
  if (cell.empty() || stop != end || wrong != std::errc{} || !std::isfinite(value))
    throw std::runtime_error("'" + cell + "' for a number");
  return value;
}

inline bool truth_in(const std::string& cell) {
  if (cell != "0" && cell != "1") throw std::runtime_error("'" + cell + "' for 0 or 1");
  return cell == "1";
}

template <class Kind>
Kind kind_from(const std::string& name, int count) {
  for (int k = 0; k < count; ++k) {
    if (name == name_of(static_cast<Kind>(k))) return static_cast<Kind>(k);
  }
  throw std::runtime_error("unknown name '" + name + "'");
}

template <class T>
void put(std::string& text, const T& value, double scale) {
  const auto out = std::back_inserter(text);
  if constexpr (std::is_same_v<T, bool>)
    fmt::format_to(out, "{}", static_cast<int>(value));
  else if constexpr (std::is_same_v<T, WalkerMode>)
    text += name_of(value);
  else if constexpr (std::is_same_v<T, std::string>)
    text += value;
  else if constexpr (std::is_floating_point_v<T>)
    fmt::format_to(out, "{}", scale == 1 ? value : value / scale);
  else
    fmt::format_to(out, "{}", value);
}

template <class T>
void take(const std::string& cell, T& value, double scale) {
  if constexpr (std::is_same_v<T, bool>)
    value = truth_in(cell);
  else if constexpr (std::is_same_v<T, WalkerMode>)
    value = kind_from<WalkerMode>(cell, walker_modes);
  else if constexpr (std::is_same_v<T, std::string>)
    value = cell;
  else if constexpr (std::is_floating_point_v<T>)
    value = scale == 1 ? number_in(cell) : number_in(cell) * scale;
  else if (const double number = number_in(cell);
           number >= 0 && number <= std::numeric_limits<T>::max() && number == std::floor(number))
    value = static_cast<T>(number);
  else
    throw std::runtime_error("'" + cell + "' for a whole number");
}

template <class... C>
std::string head(const std::tuple<C...>& columns) {
  std::string text;
  std::apply([&](const auto&... c) { ((text += (text.empty() ? "" : ",") + c.name), ...); }, columns);
  return text;
}

/// Adds a row's cells, a comma before each but the first of a line, or after a comma that stands there.
template <class Row, class... C>
void add_row(std::string& text, const Row& row, const std::tuple<C...>& columns) {
  const auto add = [&](const auto& c) {
    if (!text.empty() && text.back() != '\n' && text.back() != ',') text += ',';
    put(text, c.at(row), c.scale);
  };
  std::apply([&](const auto&... c) { (add(c), ...); }, columns);
}

/// Fills a row from as many cells from `first` on. Throws std::runtime_error where they are too few or none of a kind.
template <class Row, class... C>
void read_row(const std::vector<std::string>& cells, std::size_t first, Row& row, const std::tuple<C...>& columns) {
  if (cells.size() != first + sizeof...(C)) throw std::runtime_error(fmt::format("{} cells in a row", cells.size()));
  std::apply([&](const auto&... c) { (take(cells[first++], c.at(row), c.scale), ...); }, columns);
}

}  // namespace jugend::csv
