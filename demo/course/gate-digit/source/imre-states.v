// A state for each digit: what it shows, and which comes next.
module top(input clk, input key, output [6:0] seg, output lamp);
  localparam ZERO = 7'h3f, ONE = 7'h06, TWO = 7'h5b, THREE = 7'h4f, FOUR = 7'h66,
             FIVE = 7'h6d, SIX = 7'h7d, SEVEN = 7'h07, EIGHT = 7'h7f, NINE = 7'h6f;
  reg [6:0] state = ZERO, next;
  reg [22:0] pause = 0;
  wire step = pause == 4_799_999;
  always @* case (state)
    ZERO: next = ONE; ONE: next = TWO; TWO: next = THREE; THREE: next = FOUR; FOUR: next = FIVE;
    FIVE: next = SIX; SIX: next = SEVEN; SEVEN: next = EIGHT; EIGHT: next = NINE; default: next = ZERO;
  endcase
  always @(posedge clk or negedge key)
    if (!key) begin
      state <= ZERO;
      pause <= 0;
    end else begin
      pause <= step ? 0 : pause + 1;
      if (step) state <= next;
    end
  assign seg = state;
  assign lamp = state == NINE;
endmodule
