<?php

namespace App\Overview;

/** What stands around the work area of every page of a migration before any figure of a round: stops, entities, loads in their order. */
final readonly class Overview
{
    /** Changes with what toArray() gives: a value of another form is made anew. */
    private const FORM = 4;

    /**
     * @param  string|null  $orderError  why loads have no order; they stand as they were made then
     * @param  list<ListedLoad>  $loads
     * @param  list<ListedEntity>  $entities  in the order of the rail
     * @param  array<string, array{string, bool}>  $stops  stop → what is open there, and whether nothing is
     * @param  list<ListedCrosswalk>  $codes  by name
     * @param  list<ListedExtract>  $extracts  those of which something is frozen, by source
     * @param  array<string, string|null>  $parameters  name → default
     * @param  string  $basis  of LoadChecker::basis()
     * @param  int  $findings  open ones
     */
    public function __construct(
        public ?string $orderError,
        public array $loads,
        public array $entities,
        public array $stops,
        public array $codes,
        public array $extracts,
        public array $parameters,
        public string $basis,
        public int $findings,
    ) {
    }

    public function toJson(): string
    {
        return json_encode([
            'form' => self::FORM,
            'order_error' => $this->orderError,
            'loads' => array_map(fn (ListedLoad $l) => $l->toArray(), $this->loads),
            'entities' => array_map(fn (ListedEntity $e) => [$e->id, $e->name, $e->wave], $this->entities),
            'stops' => $this->stops,
            'codes' => array_map(fn (ListedCrosswalk $c) => $c->toArray(), $this->codes),
            'extracts' => array_map(fn (ListedExtract $e) => [$e->id, $e->name, $e->source], $this->extracts),
            'parameters' => $this->parameters,
            'basis' => $this->basis,
            'findings' => $this->findings,
        ], JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE | JSON_UNESCAPED_UNICODE);
    }

    /** Null for a text of another form. */
    public static function fromJson(string $json): ?self
    {
        $of = json_decode($json, true);

        return ($of['form'] ?? null) !== self::FORM ? null : new self(
            $of['order_error'],
            array_map(ListedLoad::fromArray(...), $of['loads']),
            array_map(fn (array $e) => new ListedEntity(...$e), $of['entities']),
            $of['stops'],
            array_map(ListedCrosswalk::fromArray(...), $of['codes']),
            array_map(fn (array $e) => new ListedExtract(...$e), $of['extracts']),
            $of['parameters'],
            $of['basis'],
            $of['findings'],
        );
    }
}
