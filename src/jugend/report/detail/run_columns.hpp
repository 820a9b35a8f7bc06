// The columns of the CSV files of a run, each listed once for writing and reading.
#pragma once

#include <jugend/base/units.hpp>
#include <jugend/report/detail/csv.hpp>

namespace jugend {

/// When each key of a walker's player was held, and how often it was pressed.
template <std::size_t... K>
auto key_columns(std::index_sequence<K...>) {
  using csv::Column;
  return std::tuple_cat(
      std::tuple(Column{key_names()[K] + "_held", [](auto& r) -> decltype(auto) { return (r.held[K]); }},
                 Column{key_names()[K] + "_presses", [](auto& r) -> decltype(auto) { return (r.presses[K]); }})...);
}

/// The columns of trace.csv.
inline const auto& trace_columns() {
  using csv::Column;
  static const auto columns = std::tuple_cat(
      std::tuple(Column{"time_s", [](auto& r) -> decltype(auto) { return (r.time); }},
                 Column{"x_m", [](auto& r) -> decltype(auto) { return (r.position.x); }},
                 Column{"y_m", [](auto& r) -> decltype(auto) { return (r.position.y); }},
                 Column{"z_m", [](auto& r) -> decltype(auto) { return (r.position.z); }},
                 Column{"vx_m_s", [](auto& r) -> decltype(auto) { return (r.velocity.x); }},
                 Column{"vy_m_s", [](auto& r) -> decltype(auto) { return (r.velocity.y); }},
                 Column{"vz_m_s", [](auto& r) -> decltype(auto) { return (r.velocity.z); }},
                 Column{"mode", [](auto& r) -> decltype(auto) { return (r.mode); }},
                 Column{"on_ground", [](auto& r) -> decltype(auto) { return (r.on_ground); }},
                 Column{"slope_deg", [](auto& r) -> decltype(auto) { return (r.slope); }, radians_per_degree},
                 Column{"facing_x", [](auto& r) -> decltype(auto) { return (r.facing.x); }},
                 Column{"facing_y", [](auto& r) -> decltype(auto) { return (r.facing.y); }},
                 Column{"facing_z", [](auto& r) -> decltype(auto) { return (r.facing.z); }},
                 Column{"up_x", [](auto& r) -> decltype(auto) { return (r.up.x); }},
                 Column{"up_y", [](auto& r) -> decltype(auto) { return (r.up.y); }},
                 Column{"up_z", [](auto& r) -> decltype(auto) { return (r.up.z); }},
                 Column{"control", [](auto& r) -> decltype(auto) { return (r.control); }},
                 Column{"ride_slip_m_s", [](auto& r) -> decltype(auto) { return (r.ride_slip); }},
                 Column{"run_ahead", [](auto& r) -> decltype(auto) { return (r.run_ahead); }},
                 Column{"run_right", [](auto& r) -> decltype(auto) { return (r.run_right); }},
                 Column{"brake", [](auto& r) -> decltype(auto) { return (r.brake); }},
                 Column{"climb", [](auto& r) -> decltype(auto) { return (r.climb); }}),
      key_columns(std::make_index_sequence<key_count>{}));
  return columns;
}

/// The columns of bodies.csv.
inline const auto& body_columns() {
  using csv::Column;
  static const auto columns = std::tuple(Column{"time_s", [](auto& r) -> decltype(auto) { return (r.time); }},
                                         Column{"x_m", [](auto& r) -> decltype(auto) { return (r.pose.position.x); }},
                                         Column{"y_m", [](auto& r) -> decltype(auto) { return (r.pose.position.y); }},
                                         Column{"z_m", [](auto& r) -> decltype(auto) { return (r.pose.position.z); }},
                                         Column{"qw", [](auto& r) -> decltype(auto) { return (r.pose.orientation.w); }},
                                         Column{"qx", [](auto& r) -> decltype(auto) { return (r.pose.orientation.x); }},
                                         Column{"qy", [](auto& r) -> decltype(auto) { return (r.pose.orientation.y); }},
                                         Column{"qz", [](auto& r) -> decltype(auto) { return (r.pose.orientation.z); }},
                                         Column{"vx_m_s", [](auto& r) -> decltype(auto) { return (r.velocity.x); }},
                                         Column{"vy_m_s", [](auto& r) -> decltype(auto) { return (r.velocity.y); }},
                                         Column{"vz_m_s", [](auto& r) -> decltype(auto) { return (r.velocity.z); }},
                                         Column{"wx_rad_s", [](auto& r) -> decltype(auto) { return (r.spin.x); }},
                                         Column{"wy_rad_s", [](auto& r) -> decltype(auto) { return (r.spin.y); }},
                                         Column{"wz_rad_s", [](auto& r) -> decltype(auto) { return (r.spin.z); }},
                                         Column{"asleep", [](auto& r) -> decltype(auto) { return (r.asleep); }});
  return columns;
}

}  // namespace jugend
