<?php

namespace App\Mending;

use App\Models\Migration;

/** Kinds of things that can be mended. */
enum Kind: string
{
    case Source = 'source';
    case Extract = 'extract';
    case Take = 'take';
    case Connection = 'connection';
    case Codes = 'codes';
    case Load = 'load';
    case Round = 'round';
    case Migration = 'migration';

    /** Of a migration, by its number; a 404 where it has none such. */
    public function find(Migration $migration, int $id): Thing
    {
        return match ($this) {
            self::Source => new SourceThing($migration->sources()->findOrFail($id)),
            self::Extract => new ExtractThing($migration->extracts()->with('source')->findOrFail($id)),
            self::Take => new TakeThing($migration->takes()->findOrFail($id)),
            self::Connection => new ConnectionThing($migration->connections()->findOrFail($id)),
            self::Codes => new CodesThing($migration->codeCrosswalks()->findOrFail($id)),
            self::Load => new LoadThing($migration->loads()->findOrFail($id)),
            self::Round => new RoundThing($migration->rounds()->with('lane')->findOrFail($id)),
            self::Migration => new MigrationThing($migration->id === $id ? $migration : Migration::query()->whereKey(0)->firstOrFail()),
        };
    }

    /** The stop of the route it is at. */
    public function stop(): string
    {
        return match ($this) {
            self::Source, self::Extract, self::Take, self::Connection => 'sources',
            self::Codes => 'crosswalks',
            self::Load => 'mapping',
            self::Round, self::Migration => 'runs',
        };
    }

    /** Whether one has to have proved a moment ago who one is. */
    public function isGrave(): bool
    {
        return in_array($this, [self::Round, self::Migration, self::Take, self::Connection], true);
    }
}
