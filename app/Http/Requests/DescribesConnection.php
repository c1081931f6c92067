<?php

namespace App\Http\Requests;

use App\Models\Connection;
use App\Models\Target;
use Baggage\Core\Reading\Database\Address;
use Baggage\Core\Reading\Database\AddressError;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Validator;

/** A form with driver, host, port and database: they have to make an address a connection may be made to. */
abstract class DescribesConnection extends FormRequest
{
    protected const PLACE = ['driver', 'host', 'port', 'database', 'username'];

    /** What stands there already, if anything. */
    abstract protected function described(): Connection|Target|null;

    abstract protected function driver(): string;

    /** @return array<string, mixed> */
    abstract public function rules(): array;

    /** Whether the place is the one that stands there, names from the environment included. */
    protected function isSamePlace(): bool
    {
        $now = $this->described();
        foreach ($now === null ? [] : array_intersect(self::PLACE, array_keys($this->rules())) as $part) {
            $was = $now->getAttribute($part);
            if ($this->text($part) !== (string) ($was instanceof \BackedEnum ? $was->value : $was)) {
                return false;
            }
        }

        return $now !== null;
    }

    /** @return list<\Closure> */
    public function after(): array
    {
        return [
            function (Validator $validator) {
                if ($validator->errors()->isNotEmpty() || $this->isSamePlace()) {
                    return;
                }
                try {
                    Address::of($this->driver(), $this->text('host'), $this->text('port'), $this->text('database'));
                } catch (AddressError $e) {
                    $validator->errors()->add($e->part, $e->getMessage());
                }
            },
        ];
    }

    /**
     * What is to be kept of it. An empty password means the one that is there; a changed place drops both it and names from the
     * environment.
     *
     * @return array<string, mixed>
     */
    public function settings(): array
    {
        $settings = array_intersect_key($this->validated(), array_flip([...self::PLACE, 'notes']));
        if (! $this->isSamePlace()) {
            $settings['from_command_line'] = false;
        }
        if ($this->text('password') !== '') {
            $settings = ['password' => $this->text('password'), 'password_env' => null] + $settings;
        }

        return $settings;
    }

    protected function text(string $part): string
    {
        return is_scalar($this->input($part)) ? (string) $this->input($part) : '';
    }
}
