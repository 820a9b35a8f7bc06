/* The shortest way to a jump and a drive from plain C. */
#include <jugend/stage/jugend.h>
#include <stdio.h>
#include <stdlib.h>

static void need(int answer) {
  if (answer >= 0) return;
  fprintf(stderr, "%s\n", jugend_error());
  exit(1);
}

int main(void) {
  const double half[3] = {200, 1, 200}, floor_pose[7] = {0, -1, 0, 1, 0, 0, 0}, feet[3] = {0, 0, 3};
  const double frame[3] = {1.1, 0.2, 0.5}, start[7] = {0, 0.7, 0, 1, 0, 0, 0};
  const double ahead[3] = {1, 0, 0}, full = 1, down = 1, up = 0;
  jugend_stage *stage = jugend_stage_new();
  jugend_id courier, body, cart;
  double speed;
  jugend_facts facts;
  int tick, i, apexes = 0;

  need(jugend_add_box(stage, half, floor_pose, 0, NULL));
  need(jugend_add_actor(stage, "walker", "courier", NULL, feet, &courier));
  need(jugend_tune(stage, courier, "jump.height", "1.4"));
  need(jugend_add_box(stage, frame, start, 240, &body));
  need(jugend_add_actor(stage, "vehicle", "cart", &body, NULL, &cart));

  need(jugend_set(stage, courier, "intent.move", ahead, 3));
  need(jugend_set(stage, cart, "drive.throttle", &full, 1));
  for (tick = 0; tick < 180; ++tick) {
    jugend_event events[8];
    int count;
    need(jugend_set(stage, courier, "jump", tick == 30 ? &down : &up, 1));
    need(jugend_tick(stage, 1.0 / 60));
    count = jugend_events(stage, courier, events, 8);
    need(count);
    for (i = 0; i < count && i < 8; ++i) {
      printf("%-12s at x %5.2f m, y %5.2f m\n", events[i].kind, events[i].position[0], events[i].position[1]);
      apexes += events[i].value > 1.39 && events[i].value < 1.41;
    }
  }
  need(jugend_get(stage, cart, "state.speed", &speed, 1));
  need(jugend_get_facts(stage, cart, &facts));
  printf("the cart is at x %.2f m, at %.2f m/s\n", facts.position[0], speed);
  need(jugend_tune(stage, courier, "jump.heigth", "2") == -1 ? 0 : -1);
  printf("%s\n", jugend_error());
  jugend_stage_free(stage);
  return apexes == 1 && speed > 3 ? 0 : 1;
}
