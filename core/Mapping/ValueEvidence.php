<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Targets\Conditions\Record;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;

/** What the values of a column say for and against a field: keys, lengths, ranges, patterns, what they look like. */
final readonly class ValueEvidence
{
    /** Words of a field, and what its values then look like. common practice, no source */
    private const LOOKS = [
        'email' => '/^\s*[^@\s]+@[^@\s]+\.[a-z]{2,}\s*$/i',
        'web' => '~^\s*(https?://|www\.)~i',
        'url' => '~^\s*(https?://|www\.)~i',
        'phone' => '/^\s*[+(0][\d\s()\/.-]{5,}$/',
        'iban' => '/^\s*[A-Z]{2}\d{2}[A-Z0-9 ]{10,}$/',
        'colour' => '/^\s*#[0-9a-f]{3,6}\s*$/i',
    ];

    /** Those that nothing else looks like: a column of them is hardly a field of another name. */
    private const PLAIN = ['email', 'url', 'colour'];

    /** @param  array<string, mixed>  $facts  as ColumnFacts::toArray() */
    public function __construct(
        private Wish $wish,
        private string $header,
        private array $facts,
        private bool $isLegacyKey,
    ) {
    }

    /** @return list<Evidence> without rules of their own */
    public function for(): array
    {
        return array_values(array_filter([$this->key(), $this->length(), $this->looks(), $this->pattern(), $this->itself()]));
    }

    /** How much speaks against it. */
    public function against(): float
    {
        $against = 0.0;
        $rows = $this->facts['filled'] + $this->facts['blank'] + $this->facts['missing'];
        if ($this->wish->isUnique && ! $this->isUnique()) {
            $against += 0.25;
        }
        if ($this->wish->field->required && $rows > 0) {
            $against += 0.3 * (1 - $this->facts['filled'] / $rows);
        }
        if ($this->wish->field->type instanceof TextType && $this->facts['longest'] > $this->wish->field->type->length) {
            $against += 0.15;
        }
        foreach (self::PLAIN as $word) {
            $against += $this->lookLike(self::LOOKS[$word]) && ! in_array($word, $this->wish->words, true) ? 0.3 : 0;
        }

        return $against + ($this->isOutOfRange() ? 0.35 : 0);
    }

    private function isUnique(): bool
    {
        return $this->facts['filled'] > 0 && ($this->facts['distinct'] === $this->facts['filled']
            || ($this->facts['estimated'] && $this->facts['distinct'] > 0.95 * $this->facts['filled']));
    }

    private function key(): ?Evidence
    {
        if (! $this->wish->isUnique || ! $this->isUnique()) {
            return null;
        }
        $values = number_format($this->facts['distinct']).' different values in as many rows';

        return $this->isLegacyKey
            ? new Evidence('', "the field is unique, and it is the legacy key: $values", 0.45)
            : new Evidence('', "the field is unique, and so is it: $values", 0.2);
    }

    /** A column that is called as the entity is, of text, is what it is called. common practice, no source */
    private function itself(): ?Evidence
    {
        $is = array_intersect(['name', 'title', 'description'], $this->wish->words) !== []
            && $this->facts['type']['type'] === 'text'
            && array_diff(Words::in($this->header), Words::in($this->wish->entity->name)) === [];

        return $is ? new Evidence('', "it is called $this->header, as what it belongs to", 0.4) : null;
    }

    private function length(): ?Evidence
    {
        $length = $this->wish->field->type instanceof TextType ? $this->wish->field->type->length : 0;
        $is = $this->facts['shortest'] === $this->facts['longest'] && $this->facts['longest'] === $length && $length > 1 && $length <= 20;

        return $is ? new Evidence('', "each of its values has $length characters, as many as fit", 0.2) : null;
    }

    private function looks(): ?Evidence
    {
        foreach (array_intersect_key(self::LOOKS, array_flip($this->wish->words)) as $word => $regex) {
            if ($this->lookLike($regex)) {
                return new Evidence('', "its values look like what \"$word\" says", 0.5);
            }
        }

        return null;
    }

    private function lookLike(string $regex): bool
    {
        return $this->facts['examples'] !== []
            && array_filter($this->facts['examples'], fn ($e) => preg_match($regex, (string) $e) !== 1) === [];
    }

    /** A check of the target that its values pass, where not any value would. */
    private function pattern(): ?Evidence
    {
        if (! $this->wish->field->type instanceof TextType || $this->facts['examples'] === []) {
            return null;
        }
        foreach ($this->wish->conditions as $condition) {
            $isWrong = fn (string $v) => $condition->holds(new Record([$this->wish->field->name => $v])) === false;
            if ($isWrong("\u{1}")) {
                $failing = array_filter($this->facts['examples'], fn ($e) => $isWrong(trim((string) $e)));
                if ($failing === []) {
                    return new Evidence('', "its examples pass the target's check: {$condition->words()}", 0.4);
                }
            }
        }

        return null;
    }

    private function isOutOfRange(): bool
    {
        $ends = array_map(
            fn ($v) => preg_match('/^\s*(-?\d+)(?:[.,](\d+))?\s*$/', (string) $v, $m) === 1 ? $m[1].(isset($m[2]) ? ".$m[2]" : '') : null,
            [$this->facts['smallest'], $this->facts['largest']],
        );
        if (in_array(null, $ends, true)) {
            return false;
        }
        // A few bad values are the rule in old data: it is out of range when all of it is, or both its ends.
        $type = $this->wish->field->type;
        if ($type instanceof IntegerType && ($ends[1] < $type->min || $ends[0] > $type->max)) {
            return true;
        }
        foreach ($this->wish->conditions as $condition) {
            $isWrong = fn (string $end) => $condition->holds(new Record([$this->wish->field->name => $end])) === false;
            if ($isWrong($ends[0]) && $isWrong($ends[1])) {
                return true;
            }
        }

        return false;
    }
}
