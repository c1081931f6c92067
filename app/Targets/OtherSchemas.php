<?php

namespace App\Targets;

use App\Looking\Looker;
use App\Looking\LookGoing;
use App\Looking\Looks;
use App\Models\Connection;
use App\Reading\Database\DatabaseLink;
use App\Reading\SheetLines;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Describing\ObjectSchemas;
use Baggage\Core\Targets\Describing\SheetDescription;
use Baggage\Core\Targets\Schema;
use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/** Entities and fields from a description in a file, or from the schema of a database that is not the target itself. */
final class OtherSchemas implements Looker
{
    /**
     * As ofFile() and ofPostgres(), looked at in a process of its own.
     *
     * @param  array<string, mixed>  $given  path and name of a file, or a connection's attributes
     *
     * @throws ReadingError|LookGoing
     */
    public static function apart(array $given): Schema
    {
        return Schema::fromArray(Looks::ask(self::class, $given));
    }

    public static function look(array $given): mixed
    {
        try {
            return (isset($given['path'])
                ? self::ofFile($given['path'], $given['name'])
                : self::ofPostgres((new Connection)->setRawAttributes($given['connection'])))->toArray();
        } catch (DescriptionError $e) {
            throw ReadingError::broken($e->getMessage());
        }
    }

    /**
     * A sheet, JSON Schema or OpenAPI as JSON or YAML, or an SQLite database.
     *
     * @throws DescriptionError|ReadingError
     */
    public static function ofFile(string $path, string $name): Schema
    {
        $head = (string) file_get_contents($path, false, null, 0, 16);
        if (str_starts_with($head, 'SQLite format 3')) {
            return (new SqliteSchema(DatabaseLink::file($path)->pdo))->read();
        }
        $yaml = preg_match('/\.ya?ml$/i', $name) === 1;
        if ($yaml || preg_match('/^[\xEF\xBB\xBF\s]*\{/', $head) === 1) {
            $text = (string) file_get_contents($path);
            try {
                $document = $yaml
                    ? Yaml::parse($text)
                    : json_decode((string) preg_replace('/^\xEF\xBB\xBF/', '', $text), true, 512, JSON_THROW_ON_ERROR);
            } catch (ParseException|\JsonException $e) {
                throw DescriptionError::notWritten($name, $yaml ? 'YAML' : 'JSON', $e->getMessage());
            }

            return is_array($document)
                ? ObjectSchemas::read($document)
                : throw DescriptionError::holdsNoObject($name);
        }

        return SheetDescription::read(SheetLines::of($path, $name, null, ['Entity', 'Field']));
    }

    /** @throws ReadingError|DescriptionError */
    public static function ofPostgres(Connection $connection): Schema
    {
        return (new PostgresSchema(DatabaseLink::to($connection, (int) config('baggage.statement.look'))->pdo))->read();
    }
}
