// What the lab shows and measures of all that goes on a vehicle's wheels, tracked ones too.
#pragma once

#include <jugend/lab/kinds/kinds.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>

namespace jugend {

inline constexpr std::size_t wheel_spin = 4;  ///< the column of wheels.csv, rad/s
/// wheels.csv and its panels.
PartSheet wheel_parts();
void add_wheels(const Vehicle& vehicle, std::vector<double>& values);
void draw_wheels(const Stage& stage, const Vehicle& vehicle, Picture& picture);
/// What its drive is made for, gear by gear.
std::vector<DriveCurve> drive_curves_of(const Vehicle& vehicle);
/// Gauges of springs, grip, stopping and turning.
void measure_wheels(const ActorTrace& trace, std::vector<Gauge>& gauges);
std::vector<GaugeInfo> gauges_of_wheels();

/// Where its tyres grip by more than tips it over, and nothing keeps it down.
std::vector<std::string> remarks_on_wheels(const Vehicle& vehicle);

/// A kind that goes on a vehicle's wheels.
template <class Tuning>
class WheeledLabKind : public LabKindWith<Tuning> {
 public:
  LabKind::Stands stands() const override { return LabKind::Stands::on_a_body; }
  std::vector<std::string> cue_keys() const override { return {"run", "drive", "hit"}; }
  PageForm page() const override { return PageForm::parts; }
  PartSheet parts() const override { return wheel_parts(); }
  std::size_t part_count(const Actor& actor) const override {
    return static_cast<std::size_t>(wheels_of(actor).wheels());
  }
  void add_parts(const Actor& actor, std::vector<double>& values) const override {
    add_wheels(wheels_of(actor), values);
  }
  std::vector<DriveCurve> drive_curves(const Actor& actor) const override { return drive_curves_of(wheels_of(actor)); }
  void draw(const Stage& stage, const Actor& actor, Picture& picture) const override {
    draw_wheels(stage, wheels_of(actor), picture);
  }
  std::vector<std::string> remarks(const Stage&, const Actor& actor) const override {
    return remarks_on_wheels(wheels_of(actor));
  }
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override { measure_wheels(trace, gauges); }
  std::vector<GaugeInfo> gauges() const override { return gauges_of_wheels(); }

 protected:
  virtual const Vehicle& wheels_of(const Actor& actor) const = 0;
};

}  // namespace jugend
