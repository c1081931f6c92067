<?php

namespace App\View;

use App\Ledger\CauseReader;
use App\Ledger\CountedLines;
use App\Ledger\LedgerReader;
use App\Ledger\SentRows;
use App\Ledger\Spaces;
use App\Looking\LookGoing;
use App\Models\Load;
use App\Models\PassLoad;
use App\Targets\Ports;
use App\Targets\Question;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\Comparing;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Targets\Entity;

/** Whom a record hangs on and who hangs on it: parents, children, rows merged into it; and the record as it was sent and as it is. */
final class Family
{
    /** Rows merged into it, and children of one kind, that are shown. */
    public const SHOWN = 20;

    private function __construct(
        private readonly Page $page,
        private readonly LedgerReader $ledger,
        private readonly Spaces $spaces,
    ) {
    }

    public static function on(Page $page): self
    {
        return new self($page, new LedgerReader($page->round ?? abort(404)), Spaces::of($page->migration));
    }

    /** @return array<string, mixed> */
    public function of(Load $load, int $row): array
    {
        $lines = new CountedLines($this->page->round?->laneId() ?? 0);
        $line = $lines->of($load->id, [$row])[$row] ?? null;
        $entity = $load->entity->described();
        $sent = $line === null ? null : $this->sent($load, $row, $line, $lines);
        $key = $line['target'] ?? null;
        [$target, $error, $going] = $key === null ? [null, null, null] : $this->target($entity, $key);

        return [
            'load' => $load,
            'row' => $row,
            'line' => $line,
            'parents' => $this->parents($load, $row),
            'merged' => $key === null ? [] : $this->merged($entity, $key, $load->id, $row),
            'held' => $line === null ? [] : $this->held($entity, $load, $line['key']),
            'record' => self::record($entity, $sent, $target['record'] ?? null),
            'isThere' => $target === null ? null : $target['record'] !== null,
            'children' => $this->children($target['children'] ?? []),
            'error' => $error,
            'going' => $going,
        ];
    }

    /**
     * The row as its pass sent it, made again.
     *
     * @param  array{outcome: string, target: string|null, pass: int, key: string}  $line
     */
    private function sent(Load $load, int $row, array $line, CountedLines $lines): ?Journey
    {
        $stands = in_array($line['outcome'], LedgerReader::STANDS, true);
        $pass = $stands ? $line['pass'] : ($line['target'] === null ? null : $lines->stood($load->id, [$row])[$row]['pass'] ?? null);
        $take = $this->page->take($load->id);
        if ($pass === null || $take === null || $this->page->round === null) {
            return null;
        }
        $progress = (new PassLoad(['load_id' => $load->id, 'take_id' => $take->id]))->setRelation('take', $take);

        return SentRows::of($this->page->round, $this->spaces)->journeys($progress, [$row => $pass])[$row] ?? null;
    }

    /** @return array{array<string, mixed>|null, string|null, string|null} what it says, why it does not, and whether it still looks */
    private function target(Entity $entity, string $key): array
    {
        $children = [];
        foreach ($this->page->migration->schema()->entities as $other) {
            foreach ($other->references() as $field) {
                $field->refers === $entity->name ? $children[] = [$other->toArray(), $field->name] : null;
            }
        }
        $target = $this->page->round?->target()->first();
        try {
            return [$target === null ? null : Ports::ask($target, Question::Family, [
                'entity' => $entity->toArray(), 'key' => $key, 'children' => $children, 'most' => self::SHOWN,
            ]), null, null];
        } catch (TargetUnavailable $e) {
            return [null, $e->getMessage(), null];
        } catch (LookGoing $e) {
            return [null, null, $e->getMessage()];
        }
    }

    /**
     * @param  array<string, string|null>|null  $now
     * @return list<array{field: string, sent: string|null, is: string|null, class: string|null}> class null where it is the same
     */
    private static function record(Entity $entity, ?Journey $sent, ?array $now): array
    {
        $lines = [];
        foreach ($now === null && $sent === null ? [] : $entity->writable() as $name => $field) {
            $isSent = $sent !== null && array_key_exists($name, $sent->values);
            $was = $sent->values[$name] ?? null;
            $is = $now[$name] ?? null;
            $lines[] = [
                'field' => $name, 'sent' => $was, 'is' => $is,
                'class' => $now === null || ! $isSent || $was === null || Comparing::isSame($field, $was, $is)
                    ? null
                    : Comparing::difference($field, $was, $is),
            ];
        }

        return $lines;
    }

    /** @return list<array{field: string, entity: string, space: string, key: string, line: \stdClass|null}> */
    private function parents(Load $load, int $row): array
    {
        $journey = (new Journeys($this->page))->of($load, $row);
        $how = $this->page->definitions->normalisations();
        $parents = [];
        foreach ($journey['fields'] ?? [] as $name => $field) {
            $parent = $field['value'];
            $refers = $parent instanceof ParentKey ? (string) ($load->entity->described()->fields[$name]->refers ?? '') : '';
            if ($parent instanceof ParentKey && $refers !== '' && $parent->record === null) {
                $key = LegacyKey::of($parent->parts, $how[$refers][$parent->space] ?? KeyNormalisation::Trim);
                $space = $this->spaces->find($refers, $parent->space);
                $parents[] = [
                    'field' => (string) $name, 'entity' => $refers, 'space' => $parent->space, 'key' => $key,
                    'line' => $space === null ? null : $this->ledger->line($space, $key),
                ];
            }
        }

        return $parents;
    }

    /** @return list<\stdClass> other rows that stand on its record */
    private function merged(Entity $entity, string $key, int $load, int $row): array
    {
        $spaces = $this->spaces->among([$entity->name], null);
        $found = $this->ledger->withKey([], $spaces, [], $key, self::SHOWN + 1);

        return array_values(array_filter($found, fn (\stdClass $l) => (int) $l->load_id !== $load || (int) $l->row_no !== $row));
    }

    /** @return list<\stdClass> load_id, cause_id, n: rows that wait for it */
    private function held(Entity $entity, Load $load, string $key): array
    {
        $space = $this->spaces->find($entity->name, $load->keySpace());

        return $space === null || $this->page->round === null
            ? []
            : (new CauseReader($this->page->round->laneId()))->waitingFor($space, $key);
    }

    /**
     * @param  list<array{entity: string, field: string, records: int, keys: list<string>}>  $found
     * @return list<array<string, mixed>> entity, field, records, and lines with load, row, key and target of the first
     */
    private function children(array $found): array
    {
        $children = [];
        foreach ($found as $of) {
            $lines = [];
            $holders = $this->ledger->holders($this->spaces->among([$of['entity']], null), $of['keys']);
            foreach ($holders as [$target, , $load, $row, $key]) {
                $lines[] = ['load' => (int) $load, 'row' => (int) $row, 'key' => (string) $key, 'target' => (string) $target];
            }
            $children[] = ['entity' => $of['entity'], 'field' => $of['field'], 'records' => $of['records'], 'lines' => $lines];
        }

        return $children;
    }
}
