import type { Component } from 'vue'
import type { FieldType } from './fields'
import AddressInput from './inputs/AddressInput.vue'
import ChoiceInput from './inputs/ChoiceInput.vue'
import ChoicesInput from './inputs/ChoicesInput.vue'
import MomentInput from './inputs/MomentInput.vue'
import MoneyInput from './inputs/MoneyInput.vue'
import NumberInput from './inputs/NumberInput.vue'
import RecordInput from './inputs/RecordInput.vue'
import TextInput from './inputs/TextInput.vue'
import UploadInput from './inputs/UploadInput.vue'
import YesNoInput from './inputs/YesNoInput.vue'

/** What a value of each type is entered with. */
export const inputs: Record<FieldType, Component> = {
  text: TextInput,
  long_text: TextInput,
  whole_number: NumberInput,
  decimal: NumberInput,
  money: MoneyInput,
  yes_no: YesNoInput,
  date: MomentInput,
  date_time: MomentInput,
  choice: ChoiceInput,
  several_choices: ChoicesInput,
  email: TextInput,
  phone: TextInput,
  web_link: TextInput,
  address: AddressInput,
  picture: UploadInput,
  file: UploadInput,
  running_number: TextInput,
  person: RecordInput,
  reference: RecordInput,
  worked_out: TextInput,
}
