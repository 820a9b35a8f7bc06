#include <jugend/stage/deeds.hpp>

namespace jugend {

void carry_out(const Deed& deed, Surroundings& on) {
  switch (deed.what) {
    case Deed::What::push: return on.push(deed.body, deed.amount, deed.at);
    case Deed::What::twist: return on.twist(deed.body, deed.amount);
    case Deed::What::force: return on.force(deed.body, deed.amount, deed.at);
    case Deed::What::torque: return on.torque(deed.body, deed.amount);
  }
}

void Observed::push(BodyId body, const Vec3& impulse, const Vec3& at) {
  deeds_.push_back({Deed::What::push, body, impulse, at});
}
void Observed::twist(BodyId body, const Vec3& impulse) { deeds_.push_back({Deed::What::twist, body, impulse, {}}); }
void Observed::force(BodyId body, const Vec3& force, const Vec3& at) {
  deeds_.push_back({Deed::What::force, body, force, at});
}
void Observed::torque(BodyId body, const Vec3& torque) { deeds_.push_back({Deed::What::torque, body, torque, {}}); }

}  // namespace jugend
