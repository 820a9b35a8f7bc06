// All kinds of actors that the library brings.
#pragma once

#include <jugend/stage/kinds/boat.hpp>
#include <jugend/stage/kinds/led_body.hpp>
#include <jugend/stage/kinds/multirotor.hpp>
#include <jugend/stage/kinds/roller.hpp>
#include <jugend/stage/kinds/tracked_vehicle.hpp>
#include <jugend/stage/kinds/vehicle.hpp>
#include <jugend/stage/kinds/walker.hpp>
