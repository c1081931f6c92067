<?php

namespace Baggage\Core\Mapping;

/** What a load may do to the target. */
enum WritePolicy: string
{
    case Create = 'create';
    case CreateOrUpdate = 'create_or_update';
    case Update = 'update';
    case Match = 'match';

    public function label(): string
    {
        return match ($this) {
            self::Create => 'create only',
            self::CreateOrUpdate => 'create or update',
            self::Update => 'update only',
            self::Match => 'match only',
        };
    }

    public function creates(): bool
    {
        return $this === self::Create || $this === self::CreateOrUpdate;
    }

    /** Whether a load with this policy finds its records by legacy keys that are there already, not by what they hold. */
    public function readsKeys(bool $hasMatchRule): bool
    {
        return ! $this->creates() && ! $hasMatchRule;
    }

    public function updates(): bool
    {
        return $this === self::Update || $this === self::CreateOrUpdate;
    }
}
