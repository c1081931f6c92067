<?php

namespace App\Loading;

use App\Ledger\BackOutBook;
use App\Ledger\Counters;
use App\Ledger\DeltaBook;
use App\Models\PassLoad;
use App\Targets\Ports;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Remembered;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Mapping\LoadDefinition;
use Illuminate\Support\Facades\DB;

/** Puts back records that passes removed which are backed out: under the keys they had, before anything else, parents before children. */
final readonly class Reviving
{
    private const AT_ONCE = 1_000;

    public function __construct(
        private BackOutBook $book,
        private Ports $ports,
        private Mark $mark,
        private string $installation,
    ) {
    }

    /** @throws TargetUnavailable */
    public function run(PassLoad $progress, LoadDefinition $load, int $entity): void
    {
        // What was put back is listed; gone on with, the stretches are the same.
        $has = new DeltaBook($progress, 0);
        for ($after = 0; ($rows = $this->book->removed($load->id, $entity, $after, self::AT_ONCE)) !== []; $after = $to) {
            $to = (int) array_key_last($rows);
            $done = $has->among(array_keys($rows));
            $orders = [];
            foreach (array_diff_key(array_filter($rows), $done) as $row => [$key, $legacy, $values]) {
                $orders[] = new Order($row, $legacy, Verb::Revive, $key, $values);
            }
            $orders === [] ?: $this->revive($progress, $load, $entity, $orders, $after, $to);
        }
    }

    /**
     * @param  non-empty-list<Order>  $orders
     *
     * @throws TargetUnavailable
     */
    private function revive(PassLoad $progress, LoadDefinition $load, int $entity, array $orders, int $after, int $to): void
    {
        $stretch = new Stretch($this->installation, $progress->pass_id, $load->id, $after, $to, isOfGone: true);
        $receipt = $this->ports->target->recall($stretch);
        $writing = $receipt === null ? $this->ports->target->begin($load->entity, $stretch, $this->mark) : new Remembered($receipt);
        try {
            $answers = $writing->do($orders);
            $writing->keep();
        } catch (\Throwable $e) {
            $writing->drop();
            throw $e;
        }
        DB::transaction(function () use ($progress, $entity, $answers, $orders, $load) {
            $back = array_values(array_filter($answers, fn ($a) => $a->done === Done::Created));
            DeltaBook::revived($progress->id, array_map(fn ($a) => $a->row, $back));
            Counters::add($progress->pass->lane_id, $entity, count($back), -count($back));
            $keys = array_column($orders, 'targetKey', 'row');
            $this->book->leaveGone($load->id, array_map(
                fn ($a) => [$a->row, (string) $keys[$a->row], 'It could not be put back: '.($a->said->message ?? 'the target refused it')],
                array_values(array_filter($answers, fn ($a) => $a->done !== Done::Created)),
            ));
        });
    }
}
