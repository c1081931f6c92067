<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\SentHash;

/**
 * Takes back what rows of one load wrote, and nothing else (SEMANTICS of back-out): records they made are removed, records they changed
 * get the values they had. What others changed since is left as they want it, and so is a record others refer to.
 */
final readonly class BackOut
{
    /**
     * @param  list<string>  $deferred  fields whose parents came later
     * @param  \Closure(list<int>): array<int, array<string, string|null>>  $asSent  rows → the record each of them sent, as far as that
     *                                                                               can be said
     */
    public function __construct(
        private LoadDefinition $load,
        private array $deferred,
        private Target $target,
        private TargetRecords $records,
        private Mark $mark,
        private \Closure $asSent,
    ) {
    }

    /**
     * Finds records others changed since: they are left.
     *
     * @param  list<Undoing>  $rows
     * @return array<array-key, array<string, string|null>> target key → the record as it is
     *
     * @throws TargetUnavailable
     */
    public function look(array $rows): array
    {
        $keys = array_values(array_unique(array_filter(array_map(fn (Undoing $u) => $u->made ?? $u->changed, $rows), is_string(...))));
        $now = $this->records->byKeys($this->load->entity, $keys);
        $unsure = array_filter(
            $rows,
            fn (Undoing $u) => $u->made !== null && isset($now[$u->made]) && ! $this->isAsSent($u, $now[$u->made]),
        );
        $sent = $unsure === [] ? [] : ($this->asSent)(array_values(array_map(fn (Undoing $u) => $u->row, $unsure)));
        foreach ($unsure as $undoing) {
            $others = OthersChanges::fields(
                $this->load->entity, $this->deferred, $sent[$undoing->row] ?? [], $now[(string) $undoing->made],
            );
            // What other rows did to it is taken back already, and says again what it said at first.
            $is = $now[(string) $undoing->made];
            $others = array_filter($others, fn (string $f) => ! array_key_exists($f, $undoing->before) || $undoing->before[$f] !== $is[$f]);
            $undoing->left = $others === [] ? null : 'Somebody changed it since: '.implode(', ', $others);
        }

        return $now;
    }

    /**
     * @param  list<Undoing>  $rows  of which none is left yet
     * @param  Receipt|null  $receipt  what the target did about them already, before the pass broke off
     *
     * @throws TargetUnavailable
     */
    public function undo(array $rows, Stretch $stretch, ?Receipt $receipt = null): void
    {
        $orders = $this->orders($rows, $receipt);
        if ($orders === []) {
            return;
        }
        $writing = $receipt === null ? $this->target->begin($this->load->entity, $stretch, $this->mark) : new Remembered($receipt);
        try {
            $answers = $writing->do($orders);
            $writing->keep();
        } catch (\Throwable $e) {
            $writing->drop();
            throw $e;
        }
        $byRow = array_column($rows, null, 'row');
        foreach ($answers as $answer) {
            $undoing = $byRow[$answer->row] ?? null;
            if ($undoing !== null) {
                $undoing->records = $answer->done->records();
                if ($answer->done === Done::Refused) {
                    $undoing->left = $answer->said->message ?? 'The target refused it';
                    $undoing->isInPart = false;
                }
            }
        }
    }

    /**
     * @param  list<Undoing>  $rows
     * @return list<Order>
     *
     * @throws TargetUnavailable
     */
    private function orders(array $rows, ?Receipt $receipt): array
    {
        if ($receipt !== null) {
            return $this->done($rows, $receipt);
        }
        $now = $this->look($rows);
        $changed = array_filter($rows, fn (Undoing $u) => $u->changed !== null && $u->isAlone);
        $sent = $changed === [] ? [] : ($this->asSent)(array_values(array_map(fn (Undoing $u) => $u->row, $changed)));
        $orders = [];
        foreach ($rows as $undoing) {
            $key = $undoing->made ?? $undoing->changed;
            if ($key === null || $undoing->left !== null || ! isset($now[$key])) {
                continue;
            }
            $orders[] = $undoing->made !== null
                ? new Order($undoing->row, $undoing->legacyKey, Verb::Remove, $key, [])
                : new Order($undoing->row, $undoing->legacyKey, Verb::Restore, $key, $this->restored(
                    $undoing, $sent[$undoing->row] ?? null, $now[$key],
                ));
        }

        return $orders;
    }

    /**
     * The target has done it already. What it was not asked to put back somebody else had changed.
     *
     * @param  list<Undoing>  $rows
     * @return list<Order>
     *
     * @throws TargetUnavailable
     */
    private function done(array $rows, Receipt $receipt): array
    {
        $asked = array_column($receipt->answers, null, 'row');
        $rows = array_filter($rows, fn (Undoing $u) => isset($asked[$u->row]));
        $changed = array_filter(array_map(fn (Undoing $u) => $u->made === null ? $u->changed : null, $rows), is_string(...));
        $now = $this->records->byKeys($this->load->entity, array_values(array_unique($changed)));
        $orders = [];
        foreach ($rows as $undoing) {
            $key = (string) ($undoing->made ?? $undoing->changed);
            $orders[] = new Order($undoing->row, $undoing->legacyKey, $undoing->made === null ? Verb::Restore : Verb::Remove, $key, []);
            // Of a record that other rows changed too all of it was put back, and maybe more since.
            if ($undoing->made === null && $undoing->isAlone && isset($now[$key])) {
                self::leave($undoing, array_keys(array_filter(
                    $this->own($undoing),
                    fn (?string $before, string $field) => ($now[$key][$field] ?? null) !== $before,
                    ARRAY_FILTER_USE_BOTH,
                )));
            }
        }

        return $orders;
    }

    /** @return array<string, string|null> the values before: one that changes records of others changes the fields it has rules for */
    private function own(Undoing $undoing): array
    {
        return $this->load->reads() ? array_intersect_key($undoing->before, $this->load->rules) : $undoing->before;
    }

    /** @param  list<string>  $others  fields that say what somebody else wants */
    private static function leave(Undoing $undoing, array $others): void
    {
        if ($others !== []) {
            $undoing->left = 'Somebody changed it since, and that is left: '.implode(', ', $others);
            $undoing->isInPart = true;
        }
    }

    /**
     * Fields that get their values back: those that say what was sent.
     *
     * @param  array<string, string|null>|null  $sent
     * @param  array<string, string|null>  $now
     * @return array<string, string|null>
     */
    private function restored(Undoing $undoing, ?array $sent, array $now): array
    {
        $values = $others = [];
        foreach ($this->own($undoing) as $field => $before) {
            $is = $now[$field] ?? null;
            $isOurs = $sent === null || in_array($field, $this->deferred, true) || ! array_key_exists($field, $sent)
                || ($sent[$field] ?? $this->load->entity->fields[$field]->default ?? null) === $is;
            if ($is !== $before) {
                $isOurs ? $values[$field] = $before : $others[] = $field;
            }
        }
        self::leave($undoing, $others);

        return $values;
    }

    /** @param  array<string, string|null>  $record */
    private function isAsSent(Undoing $undoing, array $record): bool
    {
        $sent = array_intersect_key($record, $this->load->rules);

        return $this->deferred === [] && $undoing->sentHash !== null && SentHash::ofRecord($sent) === $undoing->sentHash;
    }
}
