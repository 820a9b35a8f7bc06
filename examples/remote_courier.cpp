// A host decides, a client predicts: one process, with delay and loss on the line between them.
//
// The client runs the same stage ahead of the host on its own input. Each answer of the host tells its state
// after a tick; the client compares that with what it had there, and where they differ restores it and runs
// its later inputs again. The host checks what a remote player asks for by the very rules that the player's own
// machine uses: a dash without a charge does not happen, whoever claims it.
#include <cmath>
#include <cstdio>
#include <deque>
#include <jugend/stage/kinds.hpp>
#include <map>
#include <random>

namespace {

using namespace jugend;

constexpr double dt = 1.0 / 60;

struct Input {
  std::uint64_t tick = 0;
  Vec3 move;
  bool jump = false, dash = false, claims_endless_dashes = false;
};

struct Answer {
  std::uint64_t tick = 0;
  WalkerState state;
};

/// Hands things on after a while, or loses them.
template <class T>
class Line {
 public:
  Line(int delay, int loss_percent, unsigned seed) : delay_(delay), loss_(loss_percent), random_(seed) {}
  void send(const T& thing, int now) {
    if (static_cast<int>(random_() % 100) >= loss_) under_way_.push_back({now + delay_, thing});
  }
  bool receive(T& thing, int now) {
    if (under_way_.empty() || under_way_.front().first > now) return false;
    thing = under_way_.front().second;
    under_way_.pop_front();
    return true;
  }

 private:
  int delay_, loss_;
  std::mt19937 random_;
  std::deque<std::pair<int, T>> under_way_;
};

/// A quay with a step; the same for both.
struct Game {
  Stage stage;
  Game() {
    stage.world.add({.shape = Box{{200, 1, 10}}, .pose = {{150, -1, 0}, {}}});
    stage.world.add({.shape = Box{{4, 0.4, 10}}, .pose = {{12, 0.4, 0}, {}}});
    WalkerTuning tuning;
    tuning.dash.charge.charges = 1, tuning.dash.charge.on_ground = 0, tuning.dash.charge.recharge = 2;
    stage.add("courier", Walker(tuning, {0, 0, 0}));
  }
  ActorOf<WalkerKind>& actor() { return stage.actor_with<Walker>(stage.nth(0)); }
  void run(const Input& input) {
    actor().intent.move = input.move;
    actor().jump.set(input.jump);
    actor().dash.set(input.dash);
    stage.tick(dt);
  }
};

Input wanted(std::uint64_t tick, bool cheats) {
  Input input{tick, {1, 0, 0}, tick % 45 < 6, tick % 80 == 10, false};
  if (cheats && tick % 20 == 0) input.dash = input.claims_endless_dashes = true;
  return input;
}

struct Outcome {
  int corrections = 0;
  double largest_jump = 0;  // m, that a correction moved the client's courier
  double apart = 0;         // m, between the two at the end, at the same tick
};

Outcome play(bool shoved_by_host, bool cheats) {
  Game host, client;
  Line<Input> up(5, 10, 1);
  Line<Answer> down(5, 10, 2);
  std::map<std::uint64_t, Input> sent;           // not yet answered
  std::map<std::uint64_t, WalkerState> thought;  // what the client had after each tick
  std::map<std::uint64_t, Input> heard;          // at the host
  std::uint64_t host_tick = 0, answered = 0;
  Outcome outcome;
  for (int now = 0; now < 900; ++now) {
    // Client: its own input at once, and all that are unanswered again, so that a lost one is no harm.
    const auto tick = static_cast<std::uint64_t>(now);
    const Input input = wanted(tick, cheats);
    sent[tick] = input;
    if (input.claims_endless_dashes) {  // its game has been tampered with: charges without end
      WalkerState full = client.actor().controller.state();
      full.dash.charge = {};
      client.actor().controller.restore(full);
    }
    client.run(input);
    thought[tick] = client.actor().controller.state();
    for (const auto& [t, i] : sent) up.send(i, now);

    // Host: in order, each tick once, and only when it is there.
    for (Input got; up.receive(got, now);) heard.emplace(got.tick, got);
    for (auto next = heard.find(host_tick); next != heard.end(); next = heard.find(host_tick)) {
      if (shoved_by_host && host_tick == 300) host.actor().controller.hit({{-1, 0, 0}, 3});
      host.run(next->second);
      down.send({host_tick, host.actor().controller.state()}, now);
      ++host_tick;
    }

    // Client: where the host saw it otherwise, from there again.
    for (Answer answer; down.receive(answer, now);) {
      if (answer.tick < answered) continue;
      answered = answer.tick;
      sent.erase(sent.begin(), sent.upper_bound(answer.tick));
      const WalkerState& mine = thought[answer.tick];
      const bool agree = mine.position == answer.state.position && mine.velocity == answer.state.velocity &&
                         mine.dash.charge.used == answer.state.dash.charge.used;
      if (agree) continue;
      ++outcome.corrections;
      const Vec3 before = client.actor().controller.state().position;
      client.actor().controller.restore(answer.state);
      for (const auto& [t, i] : sent) client.run(i), thought[t] = client.actor().controller.state();
      outcome.largest_jump = std::max(outcome.largest_jump, norm(client.actor().controller.state().position - before));
    }
  }
  const Vec3 of_host = host.actor().controller.state().position;
  outcome.apart = norm(of_host - thought[host_tick - 1].position);
  return outcome;
}

}  // namespace

int main() {
  const Outcome honest = play(false, false), shoved = play(true, false), cheat = play(false, true);
  const auto tell = [](const char* what, const Outcome& o) {
    std::printf("%-34s %3d corrections, the largest %.3f m; apart at the end %.6f m\n", what, o.corrections,
                o.largest_jump, o.apart);
  };
  std::printf("83 ms each way, one packet in ten lost:\n");
  tell("both agree", honest);
  tell("the host alone knows of a hit", shoved);
  tell("the client claims endless dashes", cheat);
  const bool fine = honest.corrections == 0 && honest.apart == 0 && shoved.corrections > 0 && shoved.apart == 0 &&
                    cheat.corrections > 0 && cheat.apart < 1e-9;
  return fine ? 0 : 1;
}
